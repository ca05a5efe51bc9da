import { useQuery } from '@tanstack/react-query'
import { Link } from '@tanstack/react-router'
import { memo, useDeferredValue, useState } from 'react'
import type { Schemas } from '../../api/client'
import { findingCountsQuery, signsQuery } from '../../api/queries'
import { SyncMark } from '../../app/SyncMark'
import { useLens } from '../../lens/useLens'
import { Mark } from '../../parts/Mark'
import { Trouble } from '../../parts/Trouble'
import { siteClock } from '../../parts/times'
import { Sign } from './Sign'

interface Props {
  line: Schemas['ShelfLine']
  /** Whether nobody scrolls: boards that are scrolled past are neither asked for nor drawn. */
  still: boolean
}

/** One site: who it is on the left, its signs standing on the plank once they are there. */
export const Board = memo(function Board({ line, still }: Props) {
  const lens = useLens()
  const [wanted, setWanted] = useState(still)
  if (still && !wanted) setWanted(true)
  const signs = useQuery({ ...signsQuery(lens, line.key), enabled: wanted })
  const stops = useQuery(findingCountsQuery).data?.[line.key]?.stop ?? 0
  // Drawn in the pauses between frames.
  const drawn = useDeferredValue(signs.data, undefined)
  return (
    <section aria-label={line.name} className="grid grid-cols-[186px_minmax(0,1fr)] pt-2.5">
      <div className="pt-2 pr-2.5 pb-1.5">
        <h2 className="leading-[19px]">
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
        <p className="text-note text-ink-2">
          {siteClock(line.zone)} · {line.template}
        </p>
        <p className="flex flex-col">
          <SyncMark site={line} />
          {line.change && <Mark kind="waiting">{line.change.title}</Mark>}
          {line.others > 0 && (
            <Mark kind="open">
              {line.others} {line.change ? 'more ' : ''}
              {line.others === 1 ? 'change' : 'changes'} under way
            </Mark>
          )}
          {line.loose > 0 && (
            <Mark kind="open">{line.loose === 1 ? '1 menu' : `${line.loose} menus`} not hung</Mark>
          )}
          {stops > 0 && (
            <Link to="/findings" search={{ ...lens, site: line.key } as never} className="hover:underline">
              <Mark kind="stop">{stops === 1 ? '1 finding stops' : `${stops} findings stop`} a release</Mark>
            </Link>
          )}
        </p>
      </div>
      <div
        className="flex min-h-[104px] flex-wrap items-end gap-x-3 gap-y-2 pl-1"
        aria-busy={!drawn && !signs.error}
      >
        {!drawn && !signs.error && <Coming line={line} />}
        <Trouble query={signs} />
        {drawn && <Signs site={line.key} signs={drawn} />}
      </div>
      <div className="plank col-span-2" />
    </section>
  )
})

const Signs = memo(function Signs({ site, signs }: { site: string; signs: readonly Schemas['Sign'][] }) {
  return signs.map((sign) => <Sign key={`${sign.location}/${sign.device}`} site={site} sign={sign} />)
})

/** What is known before the signs are drawn: how much there is. */
function Coming({ line }: { line: Schemas['ShelfLine'] }) {
  return (
    <p className="self-center text-small text-ink-3">
      {line.menus === 1 ? '1 menu' : `${line.menus} menus`} · {line.entries} entries
      {line.pending > 0 && ` · ${line.pending} open`}
    </p>
  )
}
