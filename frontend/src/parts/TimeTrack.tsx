import type { Schemas } from '../api/client'
import { reading, spanMinutes } from './readings'

interface Props {
  timeline: Schemas['TimelineOut']
  line: Schemas['PlaceLineOut']
  /** The moment that is looked at; absent: now. */
  at: string | undefined
  onMoment: (at: string | undefined) => void
}

const MONTHS = ['J', 'F', 'M', 'A', 'M', 'J', 'J', 'A', 'S', 'O', 'N', 'D']

/** A place's menu through the year: stretches in which it stays the same, and what begins each. */
export function TimeTrack({ timeline, line, at, onMoment }: Props) {
  const whole = spanMinutes(timeline.begins, timeline.ends)
  const left = (moment: string) =>
    `${Math.min(Math.max((spanMinutes(timeline.begins, moment) / whole) * 100, 0), 100)}%`
  const now = at ?? timeline.now
  return (
    <fieldset data-to-scale className="relative h-[26px] min-w-0 flex-1 border-y border-hair bg-plate">
      <legend className="sr-only">
        {line.title} on a {line.device}, through the year
      </legend>
      {line.stretches.map((one, index) => {
        const causes = one.causes.map((cause) => cause.says)
        const says = `${reading(one.begins)}: ${[...new Set(causes)].join('; ') || 'as it is'}; ${one.entries} at the top`
        return (
          <button
            key={one.begins}
            type="button"
            title={says}
            aria-label={`Look at ${says}`}
            aria-pressed={one.begins <= now && (one.ends === null || now < one.ends)}
            onClick={() => onMoment(index === 0 ? undefined : one.begins)}
            className={`absolute inset-y-0 overflow-hidden border-l-2 px-0.5 text-left text-note leading-6 whitespace-nowrap text-ink-2 hover:bg-dusk-ground aria-pressed:text-ink ${index === 0 ? 'border-transparent' : 'border-dusk'} ${one.entries === 0 ? 'bg-signal-ground' : index % 2 ? 'bg-paper-2' : ''}`}
            style={{
              left: left(one.begins),
              right: one.ends ? `calc(100% - ${left(one.ends)})` : 0,
            }}
          >
            {one.entries === 0 ? 'empty' : (causes[0] ?? '')}
          </button>
        )
      })}
      <span
        className="pointer-events-none absolute -inset-y-[3px] w-[2px] bg-ink"
        style={{ left: left(now) }}
      />
    </fieldset>
  )
}

/** The months above tracks that stand below each other. */
export function Months({ timeline }: { timeline: Schemas['TimelineOut'] }) {
  const whole = spanMinutes(timeline.begins, timeline.ends)
  const first = Number(timeline.begins.slice(5, 7))
  const year = Number(timeline.begins.slice(0, 4))
  const starts = Array.from({ length: 12 }, (_, step) => {
    const month = (first + step) % 12
    const at = `${year + Math.floor((first + step) / 12)}-${String(month + 1).padStart(2, '0')}-01T00:00`
    return { month, at }
  })
  return (
    <span aria-hidden="true" className="relative h-[13px] min-w-0 flex-1 text-note text-ink-2">
      {starts.map((one) => (
        <span
          key={one.at}
          className="absolute border-l border-hair pl-0.5"
          style={{ left: `${(spanMinutes(timeline.begins, one.at) / whole) * 100}%` }}
        >
          {MONTHS[one.month]}
        </span>
      ))}
    </span>
  )
}
