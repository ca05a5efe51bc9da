import type { Schemas } from '../api/client'
import { Mark } from '../parts/Mark'
import { ago } from '../parts/times'

export function SyncMark({ site }: { site: Schemas['ShelfLine'] | Schemas['SitePage'] }) {
  if (site.release_state === 'sending' || site.release_state === 'waiting')
    return <Mark kind="waiting">going live</Mark>
  if (site.release_state === 'by hand') return <Mark kind="next">to be done by hand</Mark>
  if (site.release_state === 'putting back') return <Mark kind="stop">putting back</Mark>
  if (site.release_state === 'failed') return <Mark kind="stop">last release failed</Mark>
  if ('drifted' in site && site.drifted > 0)
    return <Mark kind="stop">drifted in {site.drifted === 1 ? '1 place' : `${site.drifted} places`}</Mark>
  if (site.connection === 'observe') return <Mark kind="open">only looked at</Mark>
  return <Mark kind="ok">{site.seen_at ? `as read ${ago(site.seen_at)}` : 'never read'}</Mark>
}
