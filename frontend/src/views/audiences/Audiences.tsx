import { useQuery } from '@tanstack/react-query'
import { Link, useNavigate, useParams } from '@tanstack/react-router'
import { type CSSProperties, useDeferredValue, useMemo, useState } from 'react'
import { within } from '../../api/inside'
import { audiencesQuery, siteQuery } from '../../api/queries'
import { point } from '../../lens/lens'
import { useLens } from '../../lens/useLens'
import { Button } from '../../parts/Button'
import { Choice } from '../../parts/Choice'
import { Input } from '../../parts/Input'
import { Mark } from '../../parts/Mark'
import { reading } from '../../parts/readings'
import { Trouble } from '../../parts/Trouble'
import { useTitle } from '../../parts/useTitle'
import { Words } from '../../parts/Words'
import { Matrix } from './Matrix'
import { markSize, SEEN_WORDS, seenMark } from './seenMark'
import { Trace } from './Trace'

const FILTERS = ['all', 'differences', 'never seen'] as const
const TOLD_AT_ONCE = 4

/** Who sees which entry of a place: every audience, on every device, at the lens's moment. */
export function Audiences() {
  const { site: key, location } = useParams({ strict: false }) as { site: string; location: string }
  const lens = useLens()
  const navigate = useNavigate()
  const site = useQuery(siteQuery(key)).data
  useTitle('Audiences', site?.locations.find((one) => one.key === location)?.title, site?.name)
  const found = useQuery(audiencesQuery(key, location, { ...lens, device: 'desktop', audience: undefined }))
  const [filter, setFilter] = useState<(typeof FILTERS)[number]>('all')
  const [words, setWords] = useState('')
  const [traced, setTraced] = useState<{ item: string; column: number } | null>(null)
  const [allTold, setAllTold] = useState(false)
  const matrix = found.data
  const sought = useDeferredValue(words).trim().toLowerCase()
  const rows = useMemo(
    () =>
      (matrix?.rows ?? []).filter(
        (row) =>
          (sought === '' || row.label.toLowerCase().includes(sought)) &&
          (filter === 'all' ||
            (filter === 'never seen'
              ? row.ever === 'never'
              : new Set(row.cells.map((cell) => matrix?.cells[cell]?.seen)).size > 1)),
      ),
    [matrix, filter, sought],
  )
  const row = matrix?.rows.find((one) => one.item === traced?.item)
  const column = traced ? matrix?.columns[traced.column] : undefined
  const warnings = matrix?.warnings ?? []
  const told = allTold ? warnings : warnings.slice(0, TOLD_AT_ONCE)
  const csv = new URLSearchParams(
    Object.entries(point(lens)).filter(([name]) => ['at', 'page'].includes(name)) as [string, string][],
  )
  return (
    <div className="flex h-full flex-col px-[18px] py-3">
      <div className="mb-1.5 flex flex-wrap items-baseline gap-x-3">
        <h1>
          <Link to="/sites/$site" params={{ site: key }} search={lens} className="hover:underline">
            {site?.name ?? key}
          </Link>{' '}
          › Audiences of
        </h1>
        <Choice
          aria-label="Place"
          className="text-head"
          value={location}
          onChoose={(value) =>
            navigate({
              to: '/sites/$site/audiences/$location',
              params: { site: key, location: value },
              search: lens,
            })
          }
        >
          {site?.locations
            .filter((one) => one.shape !== 'section')
            .map((one) => (
              <option key={one.key} value={one.key}>
                {one.title}
              </option>
            ))}
        </Choice>
        {matrix && <span className="text-ink-2">on {reading(matrix.at)}, on the site's clock</span>}
        <a
          className="ml-auto text-small underline"
          href={within(`/api/sites/${key}/places/${location}/audiences.csv?${csv}`)}
          download
        >
          as a table (CSV)
        </a>
      </div>
      <Trouble query={found} />
      {warnings.length > 0 && (
        <section aria-label="What looks wrong" className="mb-2 border-l-4 border-signal bg-plate px-3 py-1.5">
          <ul className="text-body">
            {told.map((one) => (
              <li key={one.says}>
                <Mark kind={one.kind === 'only-one' ? 'open' : 'stop'}>{KINDS[one.kind]}</Mark>{' '}
                <button
                  type="button"
                  className="text-left hover:underline"
                  onClick={() => {
                    setFilter('all')
                    setWords('')
                    const index = worst(matrix, one.item)
                    if (index !== null) setTraced({ item: one.item, column: index })
                  }}
                >
                  {one.says}
                </button>
              </li>
            ))}
          </ul>
          {warnings.length > TOLD_AT_ONCE && (
            <Button small tone="quiet" onClick={() => setAllTold(!allTold)}>
              {allTold ? 'fewer' : `${warnings.length - TOLD_AT_ONCE} more`}
            </Button>
          )}
        </section>
      )}
      <div className="mb-1 flex flex-wrap items-baseline gap-x-4 text-small text-ink-2">
        <Words
          name="Which entries"
          value={filter}
          options={FILTERS}
          onChoose={setFilter}
          className="gap-x-3"
        />
        <Input
          type="search"
          aria-label="Find entries"
          placeholder="find entries"
          value={words}
          onChange={(event) => setWords(event.target.value)}
          className="w-44 px-1"
        />
        <span className="ml-auto flex gap-4" style={markSize(13, 13) as CSSProperties}>
          {(['whole', 'part', 'none'] as const).map((one) => (
            <span key={one} className="flex items-center gap-1">
              <span className={`size-[13px] ${seenMark(one, false)}`} />
              {SEEN_WORDS[one]}
            </span>
          ))}
          <span className="flex items-center gap-1">
            <span className={`size-[13px] ${seenMark('whole', true)}`} />
            in another place
          </span>
        </span>
      </div>
      {/* The trace has its room from the start: the marks stay where they are when one of them is asked for. */}
      <div className="grid min-h-0 flex-1 grid-rows-[minmax(0,1fr)_auto] lg:grid-cols-[minmax(0,1fr)_340px] lg:grid-rows-1">
        {matrix && (
          <div className="flex min-h-0 min-w-0 flex-col">
            <Matrix
              key={location}
              matrix={matrix}
              rows={rows}
              traced={traced}
              onTrace={(item, index) => setTraced({ item, column: index })}
            />
            {rows.length === 0 && <p className="py-6 text-center text-ink-2">No entry is so.</p>}
          </div>
        )}
        {row && column ? (
          <Trace
            site={key}
            location={location}
            row={row}
            column={column}
            lens={lens}
            onClose={() => setTraced(null)}
          />
        ) : (
          <p className="hidden border-l border-hair px-4 py-2 text-small text-ink-2 lg:block">
            Choose a mark to see, step by step, why that visitor gets the entry or does without it. The arrow
            keys walk the marks, Enter chooses.
          </p>
        )}
      </div>
    </div>
  )
}

const KINDS = {
  never: 'never seen',
  'opens-empty': 'opens empty',
  'seen-by-nobody': 'nobody now',
  together: 'together',
  'only-one': 'only one',
} as const

/** The first column that does not get the entry whole. */
function worst(
  matrix: { rows: { item: string; cells: number[] }[]; cells: { seen: string }[] } | undefined,
  item: string,
) {
  const cells = matrix?.rows.find((one) => one.item === item)?.cells
  if (!cells) return null
  return Math.max(
    0,
    cells.findIndex((cell) => matrix?.cells[cell]?.seen !== 'whole'),
  )
}
