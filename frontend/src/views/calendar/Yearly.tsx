import { Link } from '@tanstack/react-router'
import { useLens } from '../../lens/useLens'
import { reading } from '../../parts/readings'
import type { Occurrence } from './blocks'

/** What comes back every year: when it comes in the next ones. */
export function Yearly({ seasons }: { seasons: readonly Occurrence[] }) {
  const lens = useLens()
  if (seasons.length === 0) return null
  const by = new Map<string, Occurrence[]>()
  for (const one of seasons) {
    const key = `${one.title} ${one.change} ${one.site}`
    by.set(key, [...(by.get(key) ?? []), one])
  }
  return (
    <section aria-label="Every year" className="mb-4">
      <h2>Every year</h2>
      <ul>
        {[...by.entries()].map(([key, years]) => (
          <li key={key} className="border-t border-hair py-1">
            <Link
              to="/changes"
              search={{ ...lens, change: years[0]?.change }}
              className="font-semibold hover:underline"
            >
              {years[0]?.title}
            </Link>{' '}
            at {years[0]?.site_name},{' '}
            {years[0]?.approved ? 'approved as long as it does the same' : 'reviewed each year'}
            <ul className="text-small text-ink-2">
              {years.map((one) => (
                <li key={one.goes}>
                  {reading(one.goes_reading)} until {reading(one.ends_reading)}
                </li>
              ))}
            </ul>
          </li>
        ))}
      </ul>
    </section>
  )
}
