import { useQuery } from '@tanstack/react-query'
import { railsQuery } from '../../api/queries'
import { useLens } from '../../lens/useLens'
import { Trouble } from '../../parts/Trouble'
import { Waiting } from '../../parts/Waiting'
import { folded, joints, type Row } from './rails'

const ROW = 26
const GAP = 72

interface Props {
  change: string
  site: string
  menu: string
  name: string
}

/** A menu before and after, with what moved joined by lines. */
export function MenuRails({ change, site, menu, name }: Props) {
  const lens = useLens()
  const found = useQuery(railsQuery(change, site, menu, lens.language))
  if (!found.data) return found.error ? <Trouble query={found} /> : <Waiting />
  const before = folded(found.data.before)
  const after = folded(found.data.after)
  const height = Math.max(before.length, after.length) * ROW
  return (
    <section
      aria-label={`${name}, before and after`}
      className="mb-3 overflow-x-auto border-t border-hair py-2"
    >
      <div className="grid min-w-[480px] grid-cols-[minmax(0,1fr)_72px_minmax(0,1fr)]">
        <Rail says="before" rows={before} />
        <svg
          aria-hidden="true"
          width={GAP}
          height={height}
          className="mt-[22px] overflow-visible"
          viewBox={`0 0 ${GAP} ${height}`}
        >
          {joints(before, after).map((one) => (
            <path
              key={`${one.from} ${one.to}`}
              d={curve(one.from, one.to)}
              fill="none"
              stroke={one.what === 'moved' ? 'var(--dusk)' : 'var(--ink)'}
              strokeWidth={one.what === 'moved' ? 2 : 1.5}
              strokeDasharray={one.what === 'moved' ? undefined : '2 4'}
            />
          ))}
        </svg>
        <Rail says="after" rows={after} />
      </div>
    </section>
  )
}

function curve(from: number, to: number): string {
  const [y, z] = [from * ROW + ROW / 2, to * ROW + ROW / 2]
  return `M 2 ${y} C ${GAP / 2} ${y}, ${GAP / 2} ${z}, ${GAP - 2} ${z}`
}

const LOOKS = {
  kept: 'text-ink-2',
  added: 'font-bold border-b-2 border-moss',
  removed: 'line-through decoration-signal decoration-2',
  moved: 'font-bold border-b-2 border-dusk',
  edited: 'font-bold border-b-2 border-dotted border-ink',
} as const

/** Said to who does not see how a line is drawn. */
const SAYS = { kept: '', added: ', new', removed: ', goes', moved: ', moves', edited: ', edited' } as const

function Rail({ says, rows }: { says: string; rows: readonly Row[] }) {
  return (
    <div className="min-w-0">
      <h4 className="h-[22px] text-small text-ink-2">{says}</h4>
      <ol aria-label={says}>
        {rows.map((row) =>
          'line' in row ? (
            <li
              key={row.line.id}
              data-what={row.line.what}
              style={{ height: ROW, paddingLeft: (row.line.level - 1) * 18 }}
              className="flex items-center gap-2"
            >
              <span className="mono flex-none text-small text-ink-2">{row.line.number}</span>
              <span className={`min-w-0 truncate ${LOOKS[row.line.what]}`}>
                {row.line.label}
                <span className="sr-only">
                  {SAYS[row.line.what]}
                  {row.line.what === 'moved' && row.line.edited && ', edited'}
                </span>
              </span>
            </li>
          ) : (
            <li
              key={`more ${row.key}`}
              style={{ height: ROW }}
              className="flex items-center text-small text-ink-2"
            >
              {row.more} more as they are
            </li>
          ),
        )}
      </ol>
    </div>
  )
}
