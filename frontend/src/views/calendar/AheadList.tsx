import { Link } from '@tanstack/react-router'
import { useLens } from '../../lens/useLens'
import { written } from '../../parts/days'
import { Mark } from '../../parts/Mark'
import type { Ahead } from './blocks'

/** What will be different, day by day, on all sites. */
export function AheadList({ ahead }: { ahead: readonly Ahead[] }) {
  const lens = useLens()
  const days = new Map<string, Ahead[]>()
  for (const one of ahead) {
    const day = one.reading.slice(0, 10)
    days.set(day, [...(days.get(day) ?? []), one])
  }
  return (
    <section aria-label="What will be different">
      <h2>What will be different</h2>
      {[...days].map(([day, events]) => (
        <section key={day} aria-label={written(day)} className="border-t border-hair py-1">
          <h3 className="font-bold text-ink-2">{written(day)}</h3>
          <ul>
            {events.map((one) => (
              <li
                key={`${one.change} ${one.site} ${one.comes}`}
                className="flex flex-wrap items-baseline gap-x-2"
              >
                <span className="mono w-[44px]">{one.reading.slice(11, 16)}</span>
                <span>{one.site_name}:</span>
                <Link
                  to="/changes"
                  search={{ ...lens, change: one.change }}
                  className="font-semibold hover:underline"
                >
                  {one.title}
                </Link>
                <span>{one.comes === 'goes' ? 'goes live' : 'comes back'}</span>
                {one.outcome === 'unapproved' ? (
                  <Mark kind="waiting">to be approved</Mark>
                ) : one.says ? (
                  <span className="basis-full pl-[52px] text-signal">
                    <Mark kind="stop">look at it</Mark> {one.says}
                  </span>
                ) : (
                  <Mark kind="next">scheduled</Mark>
                )}
                {one.does.map((says) => (
                  <span key={says} className="basis-full pl-[52px] text-small text-ink-2">
                    {says}
                  </span>
                ))}
                {one.more > 0 && (
                  <span className="basis-full pl-[52px] text-small text-ink-2">and {one.more} more</span>
                )}
              </li>
            ))}
          </ul>
        </section>
      ))}
    </section>
  )
}
