import type { Schemas } from '../../api/client'
import { Mark } from '../../parts/Mark'

export type Site = Schemas['SyncOut']

/** Whether the site shows what was verified there, in a word. */
export function State({ site }: { site: Site }) {
  if (site.release_state === 'by hand') return <Mark kind="next">to be done by hand</Mark>
  switch (site.state) {
    case 'drifted':
      return (
        <Mark kind="stop">
          {site.drifts.length === 1 ? '1 place differs' : `${site.drifts.length} places differ`}
        </Mark>
      )
    case 'away':
      return <Mark kind="waiting">not reached</Mark>
    case 'unread':
      return <Mark kind="open">not read yet</Mark>
    case 'in sync':
      return <Mark kind="ok">as verified</Mark>
  }
}
