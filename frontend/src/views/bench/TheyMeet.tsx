import type { Somebody } from '../../api/there'
import { Mark } from '../../parts/Mark'

const TOLD = 3

/** What others typed that met what was saved here: they are asked which holds, and it is told on this side too. */
export function TheyMeet({
  people,
  site,
  menu,
}: {
  people: readonly Somebody[]
  site: string
  menu: string
}) {
  const choosing = people.filter((one) => one.site === site && one.menu === menu && one.meets.length > 0)
  if (choosing.length === 0) return null
  return (
    <div
      role="status"
      aria-label="Edits of yours that others met"
      className="w-full text-small whitespace-normal"
    >
      {choosing.map((one) => (
        <p key={one.page}>
          <Mark kind="waiting">Two edits meet: {one.name} is choosing which holds.</Mark>{' '}
          {one.meets.slice(0, TOLD).map((meets) => (
            <span key={`${meets.title} ${meets.field}`} className="mr-3">
              <strong>{meets.title}</strong>
              {meets.field && `, ${meets.field}`}: saved “{meets.theirs}”, by {one.name} “{meets.ours}”.
            </span>
          ))}
          {one.meets.length > TOLD && `And ${one.meets.length - TOLD} more.`}
        </p>
      ))}
    </div>
  )
}
