import { useQuery } from '@tanstack/react-query'
import { Link } from '@tanstack/react-router'
import { memo } from 'react'
import type { Schemas } from '../../api/client'
import { findingCountsQuery } from '../../api/queries'
import { SyncMark } from '../../app/SyncMark'
import { useLens } from '../../lens/useLens'
import { Mark } from '../../parts/Mark'
import { siteClock } from '../../parts/times'

/** One site as a line: for hundreds of them. */
export const DenseBoard = memo(function DenseBoard({ line }: { line: Schemas['ShelfLine'] }) {
  const lens = useLens()
  const stops = useQuery(findingCountsQuery).data?.[line.key]?.stop ?? 0
  return (
    <section
      aria-label={line.name}
      className="grid h-[28px] grid-cols-[minmax(160px,1.4fr)_150px_150px_minmax(0,1fr)_minmax(0,1fr)] items-baseline gap-x-3 border-b border-hair px-1 text-small max-md:grid-cols-[minmax(0,1fr)_140px]"
    >
      <h2 className="truncate text-small">
        <Link
          to="/sites/$site"
          params={{ site: line.key }}
          search={lens}
          data-ahead
          className="hover:underline"
        >
          {line.name}
        </Link>
      </h2>
      <span className="truncate text-ink-2 max-md:hidden">{siteClock(line.zone)}</span>
      <SyncMark site={line} />
      <span className="truncate max-md:hidden">
        {line.change && <Mark kind="waiting">{line.change.title}</Mark>}{' '}
        {stops > 0 && <Mark kind="stop">{stops === 1 ? '1 that stops' : `${stops} that stop`}</Mark>}
      </span>
      <span className="truncate text-right text-ink-2 tabular-nums max-md:hidden">
        {line.menus} menus · {line.entries} entries{line.pending > 0 && ` · ${line.pending} open`}
      </span>
    </section>
  )
})
