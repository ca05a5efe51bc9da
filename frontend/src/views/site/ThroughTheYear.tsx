import { useQuery } from '@tanstack/react-query'
import { useNavigate } from '@tanstack/react-router'
import type { Schemas } from '../../api/client'
import { timelineQuery } from '../../api/queries'
import { useLens } from '../../lens/useLens'
import { Mark } from '../../parts/Mark'
import { reading } from '../../parts/readings'
import { Months, TimeTrack } from '../../parts/TimeTrack'

/** Every place through the coming year, on the lens's device, and trouble that can be seen coming. */
export function ThroughTheYear({ site }: { site: Schemas['SitePage'] }) {
  const lens = useLens()
  const navigate = useNavigate()
  const { at, device, ...others } = lens
  const timeline = useQuery(timelineQuery(site.key, { ...others, device: 'desktop' }, 366)).data
  if (!timeline) return null
  const lines = timeline.places.filter((one) => one.device === device)
  const onMoment = (moment: string | undefined) =>
    navigate({ to: '.', search: (before: object) => ({ ...before, at: moment }) })
  return (
    <section aria-label="Through the year" className="mt-3 border-t border-hair pt-2">
      <div className="flex items-baseline">
        <h2 className="w-[128px] flex-none text-body text-ink-2">Through the year</h2>
        <Months timeline={timeline} />
        <span className="w-[84px] flex-none pl-2 text-note text-ink-2">next change</span>
      </div>
      {lines.map((line) => (
        <div key={line.location} className="mt-px flex items-center">
          <span className="w-[128px] flex-none truncate text-small">{line.title}</span>
          <TimeTrack timeline={timeline} line={line} at={at} onMoment={onMoment} />
          <span className="w-[84px] flex-none truncate pl-2 text-note text-ink-2">
            {nextChange(line, at ?? timeline.now)}
          </span>
        </div>
      ))}
      {timeline.troubles.length > 0 && (
        <ul className="mt-1 text-small">
          {timeline.troubles.slice(0, 5).map((one) => (
            <li key={`${one.at} ${one.says}`} className="flex gap-2">
              <Mark kind={one.kind === 'clock-change' ? 'next' : 'stop'}>{reading(one.at)}</Mark> {one.says}
            </li>
          ))}
        </ul>
      )}
    </section>
  )
}

function nextChange(line: Schemas['PlaceLineOut'], after: string): string {
  const next = line.stretches.find((one) => one.begins > after)
  return next ? reading(next.begins).replace(/ \d\d:\d\d.*$/, '') : 'none'
}
