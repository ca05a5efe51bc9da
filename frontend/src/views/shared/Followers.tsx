import { useMutation } from '@tanstack/react-query'
import { Link } from '@tanstack/react-router'
import { useRef, useState } from 'react'
import { answered, client, newKey, type Schemas } from '../../api/client'
import { useAnew } from '../../api/keys'
import { useLens } from '../../lens/useLens'
import { Button } from '../../parts/Button'
import { Choice } from '../../parts/Choice'
import { Mark } from '../../parts/Mark'
import { Tick } from '../../parts/Tick'
import { Told } from '../../parts/Told'
import { Forward } from './Forward'

type Follower = Schemas['FollowerOut']

interface Props {
  shared: Schemas['SharedMenuOut']
  mayEdit: boolean
}

const FIRST = 3

/** The sites that follow it: how far each is, and what it has of its own. */
export function Followers({ shared, mayEdit }: Props) {
  const behind = shared.followers.filter((one) => one.standing === 'behind').map((one) => one.site)
  const [without, setWithout] = useState<ReadonlySet<string>>(new Set())
  const chosen = behind.filter((site) => !without.has(site))
  const take = (sites: readonly string[]) =>
    setWithout(new Set(behind.filter((site) => !sites.includes(site))))
  return (
    <section aria-label="Followers" className="min-h-0 overflow-auto pb-4">
      <h2 className="mb-1">
        {shared.followers.length === 1 ? '1 site follows it' : `${shared.followers.length} sites follow it`}
        {behind.length > 0 && <span className="text-ink-2">, {behind.length} behind</span>}
      </h2>
      {behind.length > FIRST && mayEdit && (
        <p className="mb-1 flex gap-2 text-small">
          <Button small onClick={() => take(behind.slice(0, FIRST))}>
            Three sites first
          </Button>
          <Button small tone="quiet" onClick={() => take(behind)}>
            all {behind.length}
          </Button>
        </p>
      )}
      <ul aria-label="Sites that follow it">
        {shared.followers.map((one) => (
          <One
            key={one.site}
            shared={shared}
            one={one}
            mayEdit={mayEdit}
            chosen={chosen.includes(one.site)}
            onChoose={(yes) => take(yes ? [...chosen, one.site] : chosen.filter((site) => site !== one.site))}
          />
        ))}
      </ul>
      {mayEdit && behind.length > 0 && <Forward shared={shared} sites={chosen} />}
      {mayEdit && shared.others.length > 0 && <Follow shared={shared} />}
    </section>
  )
}

interface OneProps {
  shared: Schemas['SharedMenuOut']
  one: Follower
  mayEdit: boolean
  chosen: boolean
  onChoose: (chosen: boolean) => void
}

function One({ shared, one, mayEdit, chosen, onChoose }: OneProps) {
  const lens = useLens()
  const [open, setOpen] = useState(false)
  const own = one.adjustments.length
  const lacks = one.not_filled.length
  const site = { site: one.site, menu: `shared:${shared.key}` }
  return (
    <li className="border-t border-hair py-1">
      <div className="grid grid-cols-[minmax(0,1fr)_118px_minmax(0,150px)] items-baseline gap-x-3">
        {one.standing === 'behind' && mayEdit ? (
          <Tick checked={chosen} onTick={onChoose}>
            <b>{one.name}</b>
          </Tick>
        ) : (
          <b className="pl-[21px]">{one.name}</b>
        )}
        <Standing one={one} />
        <button
          type="button"
          aria-expanded={open}
          onClick={() => setOpen(!open)}
          className="text-left text-small underline decoration-dashed underline-offset-4"
        >
          {own === 0 ? 'as shared' : own === 1 ? '1 adjustment' : `${own} adjustments`}
          {lacks > 0 && <span className="text-signal">, {lacks} not filled in</span>}
        </button>
      </div>
      {one.change && (
        <p className="pl-[21px] text-small">
          {one.standing === 'begins' ? 'Begins to follow in' : 'Taken along in'}{' '}
          <Link to="/changes" search={{ ...lens, change: one.change.id } as never} className="underline">
            {one.change.title}
          </Link>
        </p>
      )}
      {open && (
        <div className="pl-[21px] text-small">
          <ul className="list-disc pl-4">
            {one.adjustments.map((says) => (
              <li key={says}>{says}</li>
            ))}
            {one.left.map((title) => (
              <li key={title} className="text-signal">
                {title} is no more in {shared.name}, and stays here as it was adjusted
              </li>
            ))}
            {one.not_filled.map((lack) => (
              <li key={lack.title}>
                {lack.title} {lack.leaves_out ? 'is left out' : 'leads nowhere yet'}: {lack.says}
              </li>
            ))}
          </ul>
          <p className="mt-0.5 flex flex-wrap gap-x-3">
            {one.standing !== 'begins' && (
              <Link to="/sites/$site/menus/$menu" params={site} search={lens} className="underline">
                Adjust it on the bench
              </Link>
            )}
            {lacks > 0 && (
              <Link to="/sites/$site" params={{ site: one.site }} search={lens} className="underline">
                The site’s settings
              </Link>
            )}
            {mayEdit && one.standing !== 'begins' && <Leave shared={shared} one={one} />}
          </p>
        </div>
      )}
    </li>
  )
}

function Standing({ one }: { one: Follower }) {
  switch (one.standing) {
    case 'current':
      return <Mark kind="ok">newest version</Mark>
    case 'behind':
      return <Mark kind="waiting">{one.version ? `version ${one.version}` : 'an older one'}</Mark>
    case 'begins':
      return <Mark kind="next">begins</Mark>
  }
}

/** It keeps what it has as a menu of its own. */
function Leave({ shared, one }: { shared: Schemas['SharedMenuOut']; one: Follower }) {
  const anew = useAnew()
  const leave = useMutation({
    mutationFn: () =>
      answered(
        client.DELETE('/api/shared-menus/{shared}/followers/{site}', {
          params: { path: { shared: shared.key, site: one.site } },
        }),
      ),
    onSettled: () => anew.sites(),
  })
  return (
    <>
      <button
        type="button"
        className="underline"
        aria-label={`${one.name} follows it no more`}
        disabled={leave.isPending}
        onClick={() => leave.mutate()}
      >
        Follow it no more
      </button>
      {leave.data && <span role="status">In your change at {one.name} it is a menu of its own.</span>}
      <Told error={leave.error} />
    </>
  )
}

/** More sites follow it, in a change. */
function Follow({ shared }: { shared: Schemas['SharedMenuOut'] }) {
  const anew = useAnew()
  const lens = useLens()
  const [sites, setSites] = useState<readonly string[]>([])
  const key = useRef(newKey())
  const follow = useMutation({
    mutationFn: () =>
      answered(
        client.POST('/api/shared-menus/{shared}/followers', {
          params: { path: { shared: shared.key }, header: { 'idempotency-key': key.current } },
          body: { sites: [...sites] },
        }),
      ),
    onSettled: async () => {
      key.current = newKey()
      await anew.sites()
    },
    onSuccess: () => setSites([]),
  })
  const nameOf = (site: string) => shared.others.find((one) => one.site === site)?.name ?? site
  const left = shared.others.filter((one) => !sites.includes(one.site))
  return (
    <div className="mt-3 flex flex-wrap items-baseline gap-2 border-t border-hair pt-2 text-small">
      {left.length > 0 && (
        <Choice
          aria-label="A site that is to follow it"
          value=""
          onChoose={(site) => site && setSites([...sites, site])}
          options={[['', 'Another site …'], ...left.map((one) => [one.site, one.name] as const)]}
        />
      )}
      {sites.map((site) => (
        <button
          key={site}
          type="button"
          aria-label={`Not ${nameOf(site)}`}
          className="rounded-sign border border-hair px-1.5"
          onClick={() => setSites(sites.filter((one) => one !== site))}
        >
          {nameOf(site)} ×
        </button>
      ))}
      {sites.length > 0 && (
        <Button small disabled={follow.isPending} onClick={() => follow.mutate()}>
          {sites.length === 1 ? 'It follows' : 'They follow'}
        </Button>
      )}
      <Told error={follow.error} />
      {follow.data && (
        <span role="status">
          <Link to="/changes" search={{ ...lens, change: follow.data.change } as never} className="underline">
            Look at the change
          </Link>{' '}
          in which it is followed; hang it where it belongs, or include it in another menu.
        </span>
      )}
    </div>
  )
}
