import type { Schemas } from '../../../api/client'
import { Mark, type MarkKind } from '../../../parts/Mark'

const MARKS: Record<Schemas['TriedOut']['outcome'], MarkKind> = {
  ok: 'ok',
  fails: 'stop',
  'not tried': 'open',
}

/** How a trial came out: what the other side should do, whether it does, and what it did instead. */
export function Tries({ found }: { found: readonly Schemas['TriedOut'][] }) {
  const fails = found.filter((one) => one.outcome === 'fails').length
  return (
    <section aria-label="How it came out">
      <div role="status">
        <h2 className="mb-1">
          {fails === 0
            ? 'It does all of it'
            : fails === 1
              ? 'One thing is wrong'
              : `${fails} things are wrong`}
        </h2>
      </div>
      <p className="text-small text-ink-2">What the other side should do:</p>
      <ul>
        {found.map((one) => (
          <li
            key={one.check}
            className="grid grid-cols-[84px_minmax(0,1fr)] items-baseline gap-x-3 border-b border-hair py-1"
          >
            <Mark kind={MARKS[one.outcome]}>{one.outcome}</Mark>
            <span className="min-w-0">
              <span className={one.outcome === 'fails' ? 'font-semibold' : ''}>{one.check}</span>
              {one.says && <span className="block text-small break-words text-ink-2">{one.says}</span>}
            </span>
          </li>
        ))}
      </ul>
    </section>
  )
}
