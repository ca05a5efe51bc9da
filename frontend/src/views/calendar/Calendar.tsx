import { useQuery } from '@tanstack/react-query'
import { useMemo, useState } from 'react'
import { aheadQuery, freezesQuery, openChangesQuery, seasonsQuery, windowsQuery } from '../../api/queries'
import { Empty } from '../../parts/Empty'
import { Mark } from '../../parts/Mark'
import { PageHead } from '../../parts/PageHead'
import { Trouble } from '../../parts/Trouble'
import { Waiting } from '../../parts/Waiting'
import { Words } from '../../parts/Words'
import { AheadList } from './AheadList'
import { lanesOf, type Span } from './blocks'
import { Feeds } from './Feeds'
import { Freezes } from './Freezes'
import { LaneRow } from './LaneRow'
import { useMove } from './useMove'
import { Yearly } from './Yearly'

const DAY_MS = 86_400_000
const MONTH = new Intl.DateTimeFormat('en-GB', { month: 'short' })
const WEEKDAY = new Intl.DateTimeFormat('en-GB', { weekday: 'short', day: 'numeric', month: 'short' })
const LENGTHS = ['week', 'season'] as const
type Length = (typeof LENGTHS)[number]

/** What is ahead of all sites: a lane for each, changes as blocks, freezes hatched, and the same as a list. */
export function Calendar() {
  const ahead = useQuery(aheadQuery)
  const freezes = useQuery(freezesQuery).data ?? []
  const changes = useQuery(openChangesQuery).data ?? []
  const [length, setLength] = useState<Length>('season')
  const { span, ticks } = useMemo(() => spanOf(length), [length])
  const seasons = useQuery(seasonsQuery).data ?? []
  const windows = useQuery(windowsQuery).data ?? []
  const lanes = ahead.data ? lanesOf(ahead.data, seasons, span) : []
  const move = useMove(changes)
  const collisions = (ahead.data ?? []).filter((one) => one.outcome === 'meets' || one.outcome === 'another')
  const unapproved = (ahead.data ?? []).filter((one) => one.outcome === 'unapproved')
  return (
    <div className="flex min-h-full flex-col px-[18px] py-3.5">
      <PageHead names={['Calendar']}>
        <Words name="How much of it" value={length} options={LENGTHS} onChoose={setLength} />
        <span className="ml-auto flex gap-4">
          {collisions.length > 0 && <Mark kind="stop">{collisions.length} will not go</Mark>}
          {unapproved.length > 0 && <Mark kind="waiting">{unapproved.length} to be approved</Mark>}
        </span>
      </PageHead>
      <Trouble query={ahead} />
      {move.error}
      {!ahead.data && !ahead.error && <Waiting />}
      {ahead.data?.length === 0 && (
        <Empty says="Nothing has a moment yet. Give a change one where it is told what it does." />
      )}
      {lanes.length > 0 && (
        <section aria-label="Lanes" className="relative">
          <div className="ml-[180px] flex border-b border-ink text-note text-ink-2 max-sm:ml-[96px]">
            {ticks.map((tick) => (
              <span
                key={tick.says}
                className="min-w-0 flex-none truncate border-l border-hair pl-1"
                style={{ width: `${tick.share * 100}%` }}
              >
                {tick.says}
              </span>
            ))}
          </div>
          {lanes.map((lane) => (
            <LaneRow
              key={lane.site}
              lane={lane}
              span={span}
              freezes={freezes.filter((one) => one.site === null || one.site === lane.site)}
              windows={windows.filter((one) => one.site === lane.site)}
              onMove={move.by}
              moving={move.running}
            />
          ))}
        </section>
      )}
      <div className="mt-4 grid grid-cols-[minmax(0,1.2fr)_minmax(0,1fr)] gap-6 max-lg:grid-cols-[minmax(0,1fr)]">
        {ahead.data && ahead.data.length > 0 && <AheadList ahead={ahead.data} />}
        <div>
          <Yearly seasons={seasons} />
          <Freezes freezes={freezes} />
          <Feeds />
        </div>
      </div>
    </div>
  )
}

/** From the first of this month on for a year, or from today for a week. */
function spanOf(length: Length): { span: Span; ticks: { says: string; share: number }[] } {
  const now = new Date()
  const begins =
    length === 'season'
      ? new Date(now.getFullYear(), now.getMonth(), 1)
      : new Date(now.getFullYear(), now.getMonth(), now.getDate())
  const at = (step: number) =>
    length === 'season'
      ? new Date(begins.getFullYear(), begins.getMonth() + step, 1)
      : new Date(begins.getTime() + step * DAY_MS)
  const steps = length === 'season' ? 12 : 7
  const span = { begins: begins.getTime(), ends: at(steps).getTime() }
  const whole = span.ends - span.begins
  const ticks = Array.from({ length: steps }, (_, step) => ({
    says: (length === 'season' ? MONTH : WEEKDAY).format(at(step)),
    share: (at(step + 1).getTime() - at(step).getTime()) / whole,
  }))
  return { span, ticks }
}
