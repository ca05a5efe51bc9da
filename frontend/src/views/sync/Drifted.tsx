import { useMutation } from '@tanstack/react-query'
import { Link } from '@tanstack/react-router'
import { useRef, useState } from 'react'
import { answered, client, newKey, type Schemas } from '../../api/client'
import { useAnew } from '../../api/keys'
import type { Device } from '../../lens/lens'
import { useLens } from '../../lens/useLens'
import { Button } from '../../parts/Button'
import { Tick } from '../../parts/Tick'
import { Told } from '../../parts/Told'
import { ago, when } from '../../parts/times'

interface Props {
  site: Schemas['SyncOut']
  drift: Schemas['DriftOut']
  mayEdit: boolean
}

const SURE_ENOUGH = 0.9

/** A place that shows something else than was verified: what was done there, edit by edit, taken over or put back. */
export function Drifted({ site, drift, mayEdit }: Props) {
  const lens = useLens()
  const anew = useAnew()
  const [without, setWithout] = useState<ReadonlySet<string>>(new Set())
  const keys = useRef<Record<string, string>>({})
  const path = { site: site.site, location: drift.location, device: drift.device as Device }
  const key = (act: string) => {
    keys.current[act] ??= newKey()
    return { 'idempotency-key': keys.current[act] }
  }
  const ticked = drift.edits.filter((one) => !without.has(one.key)).map((one) => one.key)
  const all = ticked.length === drift.edits.length
  const adopt = useMutation({
    mutationFn: () =>
      answered(
        client.POST('/api/sites/{site}/places/{location}/{device}/adopt', {
          params: { path, header: key(ticked.join(' ')) },
          body: { keys: all ? null : ticked, audience: drift.audience },
        }),
      ),
    onSettled: () => anew.site(site.site),
  })
  const back = useMutation({
    mutationFn: () =>
      answered(
        client.POST('/api/sites/{site}/places/{location}/{device}/read-again', {
          params: { path, header: key('back') },
          body: { what: 'put back' },
        }),
      ),
    onSettled: () => anew.site(site.site),
  })
  const where = `${drift.location} on the ${drift.device}${drift.audience && `, to ${drift.audience}`}`
  return (
    <section aria-label={where} className="mt-4">
      <h3 className="font-bold">{where}</h3>
      <p className="text-small text-ink-2">
        Differs since {ago(drift.since)}
        {drift.edited_by && `, edited by ${drift.edited_by}`}
        {drift.edited_at && ` ${when(drift.edited_at)}`}.
        {drift.sure === 0 && ' No navigation of the page is like it.'}
        {drift.sure > 0 &&
          drift.sure < SURE_ENOUGH &&
          ` Entries were matched by what they say: ${Math.round(drift.sure * 100)} % sure.`}
      </p>
      <ul className="mt-1">
        {drift.edits.map((one) => (
          <li key={one.key} className="border-b border-hair py-0.5">
            {mayEdit ? (
              <Tick
                checked={!without.has(one.key)}
                onTick={(checked) => {
                  const next = new Set(without)
                  if (checked) next.delete(one.key)
                  else next.add(one.key)
                  setWithout(next)
                }}
              >
                {one.says}
              </Tick>
            ) : (
              one.says
            )}
          </li>
        ))}
      </ul>
      {drift.more > 0 && (
        <p className="text-small text-ink-2">
          And {drift.more} more, which are taken over where all of these are.
        </p>
      )}
      {mayEdit && (
        <p className="mt-2 flex flex-wrap items-baseline gap-2">
          <Button tone="go" disabled={adopt.isPending || ticked.length === 0} onClick={() => adopt.mutate()}>
            {all ? 'Take over into a change' : `Take over ${ticked.length} of ${drift.edits.length}`}
          </Button>
          {site.connection === 'endpoint' || site.connection === 'repository' ? (
            <Button disabled={back.isPending || back.data !== undefined} onClick={() => back.mutate()}>
              Put back what was approved
            </Button>
          ) : (
            <span className="text-small text-ink-2">
              To put it back, do the opposite on the site: nothing is sent to it.
            </span>
          )}
        </p>
      )}
      <Told error={adopt.error ?? back.error} />
      {adopt.data && (
        <p role="status">
          It is in a change now, and live once that is.{' '}
          <Link to="/changes" search={{ ...lens, change: adopt.data.change } as never} className="underline">
            Look at the change
          </Link>
        </p>
      )}
      {back.data && <p role="status">Being put back, and read again to be sure.</p>}
    </section>
  )
}
