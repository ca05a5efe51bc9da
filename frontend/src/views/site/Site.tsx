import { useQuery } from '@tanstack/react-query'
import { Link, useParams } from '@tanstack/react-router'
import { sessionQuery, siteQuery } from '../../api/queries'
import { useLens } from '../../app/useLens'
import { Mark } from '../../parts/Mark'
import { Miniature } from '../../parts/Miniature'
import { Told } from '../../parts/Told'
import { siteClock } from '../../parts/times'
import { SyncMark } from '../shelf/Board'
import { HangingTable } from './HangingTable'
import { NewMenu } from './NewMenu'
import { SigningKey } from './SigningKey'

/** A site: which menu hangs in which place on which device, and the menus that hang nowhere. */
export function Site() {
  const { site: key } = useParams({ strict: false }) as { site: string }
  const lens = useLens()
  const site = useQuery(siteQuery(key))
  const session = useQuery(sessionQuery)
  const mayEdit = session.data?.may_edit ?? false
  if (site.error) return <Told error={site.error} />
  if (!site.data) return null
  const found = site.data
  const loose = found.menus.filter((menu) => menu.hangs === 0)
  return (
    <div className="px-[18px] py-3.5">
      <div className="mb-3 flex flex-wrap items-baseline gap-3">
        <h1>{found.name}</h1>
        <span className="text-ink-2">
          <a href={found.base} target="_blank" rel="noopener noreferrer" className="mono underline">
            {found.base.replace(/^https?:\/\/|\/$/g, '')}
          </a>{' '}
          · {siteClock(found.zone)} · template {found.template} · {found.languages.join(', ')} ·{' '}
          <Link to="/sites/$site/pages" params={{ site: key }} search={lens} className="underline">
            {found.pages} pages
          </Link>
        </span>
        <span className="ml-auto flex items-baseline gap-3">
          {found.draft && <Mark kind="waiting">{found.draft}</Mark>}
          <SyncMark site={found} />
        </span>
      </div>
      {found.connection === 'endpoint' && !found.has_secret && mayEdit && <SigningKey site={found} />}
      <HangingTable site={found} editable={mayEdit} />
      <section aria-label="Loose menus" className="mt-6 border-t border-hair pt-3">
        <h2 className="mb-2 text-[14px] text-ink-2">Loose menus: they hang nowhere</h2>
        <div className="flex flex-wrap gap-3">
          {loose.map((menu) => (
            <Link
              key={menu.key}
              to="/sites/$site/menus/$menu"
              params={{ site: key, menu: menu.key }}
              search={lens}
              className="min-w-[160px] rounded-sign border-[1.5px] border-ink bg-plate px-2.5 py-1.5 hover:border-dusk"
            >
              <span className="block text-[13px] text-ink-2">{menu.name}</span>
              <Miniature bars={menu.bars} shape="drawer" />
              <span className="flex justify-between gap-3 text-[12px] text-ink-2">
                <span>{menu.count}</span>
                {menu.pending > 0 && <Mark kind="open">{menu.pending} open</Mark>}
              </span>
            </Link>
          ))}
          {mayEdit && <NewMenu site={found} />}
        </div>
      </section>
    </div>
  )
}
