import { useQuery } from '@tanstack/react-query'
import { Link, useNavigate, useSearch } from '@tanstack/react-router'
import { syncQuery } from '../../api/queries'
import { readFindings } from '../../app/findings'
import { says } from '../../app/ways'
import { readLens } from '../../lens/lens'
import { Empty } from '../../parts/Empty'
import { PageHead } from '../../parts/PageHead'
import { Trouble } from '../../parts/Trouble'
import { when } from '../../parts/times'
import { Waiting } from '../../parts/Waiting'
import { OneSite } from './OneSite'
import { type Site, State } from './State'

/** Whether each site shows what was verified there; where it does not, what somebody did there, to take over or put back. */
export function Sync() {
  const { site: chosen } = readFindings(useSearch({ strict: false }))
  const navigate = useNavigate()
  const found = useQuery(syncQuery)
  const sites = found.data ?? []
  const open =
    sites.find((one) => one.site === chosen) ??
    sites.find((one) => one.drifts.length > 0 || one.release_state === 'by hand')
  const count = (state: Site['state']) => sites.filter((one) => one.state === state).length
  const choose = (site: string) =>
    void navigate({ to: '.', replace: true, search: (before: object) => ({ ...before, site }) })
  return (
    <div className="grid h-full min-h-0 grid-cols-[400px_minmax(0,1fr)] grid-rows-[auto_minmax(0,1fr)] gap-x-5 px-[18px] pt-3.5 max-lg:block max-lg:h-auto">
      <div className="col-span-full">
        <PageHead
          names={['Sync']}
          beside={
            found.data &&
            `${count('in sync')} in sync · ${count('drifted')} drifted · ${count('away')} not reached`
          }
        >
          <Link to="/shared" search={readLens} className="text-small underline">
            Shared menus
          </Link>
          <Link to="/compare" search={readLens} className="text-small underline">
            Compare sites
          </Link>
        </PageHead>
        <Trouble query={found} />
        {!found.data && !found.error && <Waiting />}
        {found.data?.length === 0 && <Empty says="There is no site yet." />}
      </div>
      <ul aria-label="Sites" className="min-h-0 overflow-auto pb-4">
        {sites.map((one) => (
          <li key={one.site} className="border-b border-hair">
            <button
              type="button"
              aria-pressed={one === open}
              onClick={() => choose(one.site)}
              className="grid w-full grid-cols-[minmax(0,1fr)_150px] gap-x-3 rounded-sign px-2 py-1.5 text-left hover:bg-paper-2 aria-pressed:bg-plate aria-pressed:outline-[1.5px] aria-pressed:-outline-offset-1 aria-pressed:outline-ink"
            >
              <b className="truncate">{one.name}</b>
              <State site={one} />
              <span className="text-small text-ink-2">{says(one.connection)}</span>
              <span className="text-small text-ink-2">
                {one.read_at ? `read ${when(one.read_at)}` : 'to be read'}
              </span>
            </button>
          </li>
        ))}
      </ul>
      <section
        aria-label="The site"
        className="min-h-0 overflow-auto border-l border-hair pb-4 pl-5 max-lg:border-0 max-lg:pl-0"
      >
        {open && <OneSite key={open.site} site={open} />}
        {!open && sites.length > 0 && (
          <p className="text-ink-2">Choose a site to see when it was read, and how often it is.</p>
        )}
      </section>
    </div>
  )
}
