import { useMutation, useQuery } from '@tanstack/react-query'
import { Link } from '@tanstack/react-router'
import { answered, client } from '../../api/client'
import { useAnew } from '../../api/keys'
import { sessionQuery } from '../../api/queries'
import { says } from '../../app/ways'
import { useLens } from '../../lens/useLens'
import { Button } from '../../parts/Button'
import { Choice } from '../../parts/Choice'
import { Told } from '../../parts/Told'
import { when } from '../../parts/times'
import { ByHand } from './ByHand'
import { Drifted } from './Drifted'
import { type Site, State } from './State'

const RHYTHMS: readonly (readonly [string, string])[] = [
  ['5', 'every 5 minutes'],
  ['15', 'every 15 minutes'],
  ['60', 'every hour'],
  ['360', 'every 6 hours'],
  ['1440', 'every day'],
]

const HOW: Record<Site['connection'], string> = {
  endpoint: 'over the site protocol',
  repository: 'in its repository',
  fetch: 'by its home page as visitors get it',
  observe: 'by its home page as visitors get it',
}

/** How a site gets its menus, when it was read as it is live, and what differs there. */
export function OneSite({ site }: { site: Site }) {
  const lens = useLens()
  const anew = useAnew()
  const person = useQuery(sessionQuery).data
  const mayEdit = person?.may_edit_at[site.site] ?? person?.may_edit ?? false
  const params = { path: { site: site.site } }
  const read = useMutation({
    mutationFn: () => answered(client.POST('/api/sites/{site}/sync/read', { params })),
    onSettled: () => anew.site(site.site),
  })
  const rhythm = useMutation({
    mutationFn: (minutes: number) =>
      answered(client.PUT('/api/sites/{site}/sync', { params, body: { every_minutes: minutes } })),
    onSettled: () => anew.site(site.site),
  })
  const every = String(site.every_minutes ?? 60)
  const known = RHYTHMS.some(([minutes]) => minutes === every)
  return (
    <>
      <div className="flex flex-wrap items-baseline gap-x-3 gap-y-1">
        <h2>
          <Link to="/sites/$site" params={{ site: site.site }} search={lens} className="underline">
            {site.name}
          </Link>
        </h2>
        <State site={site} />
        {mayEdit && (
          <span className="ml-auto flex items-baseline gap-2 text-small">
            <span>read</span>
            <Choice
              aria-label="How often it is read"
              value={every}
              options={known ? RHYTHMS : [...RHYTHMS, [every, `every ${every} minutes`]]}
              onChoose={(minutes) => rhythm.mutate(Number(minutes))}
            />
            <Button small disabled={read.isPending} onClick={() => read.mutate()}>
              Read now
            </Button>
          </span>
        )}
      </div>
      <Told error={read.error ?? rhythm.error} />
      <dl className="mt-2 grid grid-cols-[150px_minmax(0,1fr)] gap-x-3 gap-y-0.5 text-small">
        <dt className="text-ink-2">Gets its menus</dt>
        <dd>
          {says(site.connection)}{' '}
          {mayEdit && (
            <Link
              to="/sites/$site/connection"
              params={{ site: site.site }}
              search={lens}
              className="underline"
            >
              set it up
            </Link>
          )}
        </dd>
        <dt className="text-ink-2">Went live last</dt>
        <dd>{site.live_at ? when(site.live_at) : 'nothing yet'}</dd>
        {site.release_state && site.release_state !== 'live' && (
          <>
            <dt className="text-ink-2">Last release</dt>
            <dd>
              {site.release_state}: {site.release_says}
            </dd>
          </>
        )}
        <dt className="text-ink-2">Read as it is live</dt>
        <dd>
          {site.read_at
            ? `${when(site.read_at)}, ${site.places === 1 ? '1 place' : `${site.places} places`}, ${HOW[site.connection]}`
            : 'not yet'}
        </dd>
        {site.says && (
          <>
            <dt className="text-ink-2">Could not be read</dt>
            <dd className="text-signal">{site.says}</dd>
          </>
        )}
      </dl>
      {site.release_state === 'by hand' && site.release && (
        <ByHand site={site} release={site.release} mayPut={mayEdit} />
      )}
      {site.drifts.length === 0 && site.read_at && site.release_state !== 'by hand' && (
        <p className="mt-3 text-ink-2">It shows what was verified, in every place that was read.</p>
      )}
      {site.drifts.map((one) => (
        <Drifted
          key={`${one.location} ${one.device} ${one.audience} ${one.since}`}
          site={site}
          drift={one}
          mayEdit={mayEdit}
        />
      ))}
    </>
  )
}
