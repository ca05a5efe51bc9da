import { Link } from '@tanstack/react-router'
import type { Schemas } from '../../api/client'
import { useLens } from '../../app/useLens'
import { Mark } from '../../parts/Mark'
import { ago, siteClock } from '../../parts/times'
import { Sign } from './Sign'

export function SyncMark({ site }: { site: Schemas['ShelfBoard'] | Schemas['SitePage'] }) {
  if (site.release_state === 'sending' || site.release_state === 'waiting')
    return <Mark kind="waiting">going live</Mark>
  if (site.release_state === 'putting back') return <Mark kind="stop">putting back</Mark>
  if (site.release_state === 'failed') return <Mark kind="stop">last release failed</Mark>
  if (site.connection === 'observe') return <Mark kind="open">only looked at</Mark>
  return <Mark kind="ok">{site.seen_at ? `as read ${ago(site.seen_at)}` : 'never read'}</Mark>
}

/** One site: who it is on the left, its signs standing on the plank. */
export function Board({ board }: { board: Schemas['ShelfBoard'] }) {
  const lens = useLens()
  return (
    <section aria-label={board.name} className="grid grid-cols-[186px_minmax(0,1fr)] pt-2.5">
      <div className="pt-2 pr-2.5 pb-1.5">
        <h2 className="leading-[19px]">
          <Link to="/sites/$site" params={{ site: board.key }} search={lens} className="hover:underline">
            {board.name}
          </Link>
        </h2>
        <p className="text-[12px] text-ink-2">
          {siteClock(board.zone)} · {board.template}
        </p>
        <p className="flex flex-col">
          <SyncMark site={board} />
          {board.draft && <Mark kind="waiting">{board.draft}</Mark>}
          {board.others > 0 && (
            <Mark kind="open">
              {board.others} {board.change ? 'more ' : ''}
              {board.others === 1 ? 'change' : 'changes'} under way
            </Mark>
          )}
          {board.loose > 0 && (
            <Mark kind="open">{board.loose === 1 ? '1 menu' : `${board.loose} menus`} not hung</Mark>
          )}
        </p>
      </div>
      <div className="flex min-h-[104px] flex-wrap items-end gap-x-3 gap-y-2 pl-1">
        {board.signs.map((sign) => (
          <Sign key={`${sign.location}/${sign.device}`} site={board.key} sign={sign} />
        ))}
      </div>
      <div className="plank col-span-2" />
    </section>
  )
}
