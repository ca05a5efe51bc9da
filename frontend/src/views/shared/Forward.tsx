import { useMutation, useQuery } from '@tanstack/react-query'
import { Link } from '@tanstack/react-router'
import { useRef, useState } from 'react'
import { answered, client, newKey, type Schemas } from '../../api/client'
import { useAnew } from '../../api/keys'
import { forwardQuery } from '../../api/queries'
import { useLens } from '../../lens/useLens'
import { Asked } from '../../parts/Asked'
import { Button } from '../../parts/Button'
import { Input } from '../../parts/Input'
import { Told } from '../../parts/Told'
import { Waiting } from '../../parts/Waiting'

type Ahead = Schemas['ForwardOut']

interface Props {
  shared: Schemas['SharedMenuOut']
  /** Those that are to be rolled forward. */
  sites: readonly string[]
}

const FEW = 8

/** What the newest version does at each of the sites, and the one change that takes them there. */
export function Forward({ shared, sites }: Props) {
  const lens = useLens()
  const anew = useAnew()
  const ahead = useQuery(forwardQuery(shared.key, shared.version))
  const [title, setTitle] = useState<string | null>(null)
  const [all, setAll] = useState(false)
  const key = useRef(newKey())
  const wanted = title ?? `${shared.name}, version ${shared.version}`
  const told = (ahead.data ?? []).filter((one) => sites.includes(one.site))
  const shown = all ? told : told.slice(0, FEW)
  const roll = useMutation({
    mutationFn: () =>
      answered(
        client.POST('/api/shared-menus/{shared}/forward', {
          params: { path: { shared: shared.key }, header: { 'idempotency-key': key.current } },
          body: { title: wanted, sites: [...sites] },
        }),
      ),
    onSettled: async () => {
      key.current = newKey()
      await anew.sites()
    },
  })
  return (
    <section aria-label="Roll forward" className="mt-3 border-t-2 border-wood pt-2">
      <h3 className="font-semibold">Roll forward to version {shared.version}</h3>
      <Told error={ahead.error} />
      {!ahead.data && !ahead.error && <Waiting />}
      <ul aria-label="What it does">
        {shown.map((one) => (
          <Does key={one.site} one={one} shared={shared.name} />
        ))}
      </ul>
      {told.length > shown.length && (
        <Button small tone="quiet" onClick={() => setAll(true)}>
          and {told.length - shown.length} more
        </Button>
      )}
      <form
        className="mt-2 flex flex-wrap items-end gap-2"
        onSubmit={(event) => {
          event.preventDefault()
          roll.mutate()
        }}
      >
        <Asked says="What the change is called">
          {(id) => (
            <Input
              id={id}
              value={wanted}
              maxLength={200}
              className="w-[260px]"
              onChange={(event) => setTitle(event.target.value)}
            />
          )}
        </Asked>
        <Button
          type="submit"
          tone="go"
          disabled={sites.length === 0 || !wanted.trim() || roll.isPending || !ahead.data}
        >
          Roll {sites.length === 1 ? '1 site' : `${sites.length} sites`} forward
        </Button>
      </form>
      <Told error={roll.error} />
      {roll.data && (
        <p role="status">
          “{roll.data.title}” takes{' '}
          {roll.data.sites.length === 1 ? '1 site' : `${roll.data.sites.length} sites`} along.{' '}
          <Link to="/changes" search={{ ...lens, change: roll.data.change } as never} className="underline">
            Look at the change
          </Link>
        </p>
      )}
    </section>
  )
}

function Does({ one, shared }: { one: Ahead; shared: string }) {
  return (
    <li className="border-t border-hair py-1 text-small">
      <b>{one.name}</b>
      {one.refused && <span className="text-signal"> {one.refused}</span>}
      <ul className="list-disc pl-4">
        {one.does.map((says) => (
          <li key={says}>{says}</li>
        ))}
        {one.does.length === 0 && <li className="text-ink-2">Visitors get here what they get now.</li>}
        {one.keeps.map((says) => (
          <li key={says} className="text-ink-2">
            keeps: {says}
          </li>
        ))}
        {one.met.map((met) => (
          <li key={`${met.title} ${met.field}`}>
            {met.title}, {met.field ?? 'where it stands'}: keeps {met.ours}, where {shared} now has{' '}
            {met.theirs}
          </li>
        ))}
        {one.left.map((title) => (
          <li key={title} className="text-signal">
            {title} is taken out of {shared}; here it stays as it was adjusted
          </li>
        ))}
        {one.not_filled.map((lack) => (
          <li key={lack.title} className="text-signal">
            {lack.title} {lack.leaves_out ? 'is left out' : 'leads nowhere yet'}: {lack.says}
          </li>
        ))}
      </ul>
    </li>
  )
}
