import type { Schemas } from '../../../api/client'
import { Mark } from '../../../parts/Mark'

type Ability = NonNullable<Schemas['Abilities']['shows']>[number]

const SAYS: Record<Ability, string> = {
  buttons: 'this site does not show buttons',
  badges: 'this site does not show badges',
  icons: 'this site does not show icons',
  pictures: 'this site does not show pictures',
  overlays: 'this site does not open overlays',
  'new-tab': 'this site does not open new tabs',
  folding: 'this site does not fold places',
}

/** Beside a setting that holds something: that the site says it leaves it out. */
export function NotShown({ can, what, set }: { can: Schemas['Abilities']; what: Ability; set: boolean }) {
  if (!set || !can.shows || can.shows.includes(what)) return null
  return (
    <span className="block">
      <Mark kind="stop">{SAYS[what]}</Mark>
    </span>
  )
}
