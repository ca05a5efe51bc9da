/** What stands on a site's lane: each change from when it goes live until it comes back, in rows so that none covers another. */
import type { Schemas } from '../../api/client'
import { reading } from '../../parts/readings'

export type Ahead = Schemas['AheadOut']
export type Occurrence = Schemas['SeasonOccurrenceOut']

export interface Block {
  change: string
  title: string
  /** Instants, in milliseconds. `ends` null where it stays. */
  begins: number
  ends: number | null
  /** What its beginning brings, or its end where it is live already. */
  event: Ahead
  /** What its end brings, where it has one. */
  end: Ahead | null
  live: boolean
  row: number
}

/** A year's occurrence that is no change yet. */
export interface Again {
  change: string
  title: string
  begins: number
  ends: number
  says: string
  row: number
}

export interface Lane {
  site: string
  name: string
  zone: string
  blocks: Block[]
  agains: Again[]
  rows: number
}

export interface Span {
  begins: number
  ends: number
}

/** Lanes of the sites that have a moment ahead, by their names. */
export function lanesOf(ahead: readonly Ahead[], seasons: readonly Occurrence[], span: Span): Lane[] {
  const sites = new Map<string, { events: Ahead[]; occurrences: Occurrence[] }>()
  const at = (site: string) => {
    const found = sites.get(site) ?? { events: [], occurrences: [] }
    sites.set(site, found)
    return found
  }
  for (const one of ahead) at(one.site).events.push(one)
  for (const one of seasons) if (Date.parse(one.goes) < span.ends) at(one.site).occurrences.push(one)
  return [...sites.values()]
    .map(({ events, occurrences }) => laneOf(events, occurrences, span))
    .sort((one, other) => one.name.localeCompare(other.name))
}

function laneOf(events: readonly Ahead[], occurrences: readonly Occurrence[], span: Span): Lane {
  const first = (events[0] ?? occurrences[0]) as Ahead | Occurrence
  const made: (Omit<Block, 'row'> & { again?: undefined })[] = []
  for (const change of new Set(events.map((one) => one.change))) {
    const goes = events.find((one) => one.change === change && one.comes === 'goes')
    const end = events.find((one) => one.change === change && one.comes === 'ends') ?? null
    const event = goes ?? end
    if (!event) continue
    made.push({
      change,
      title: event.title,
      begins: Date.parse(goes?.at ?? end?.since ?? event.at),
      ends: end ? Date.parse(end.at) : null,
      event,
      end,
      live: !goes,
    })
  }
  const again = occurrences.map((one) => ({
    again: true as const,
    change: one.change,
    title: `${one.title} ${one.goes_reading.slice(0, 4)}`,
    begins: Date.parse(one.goes),
    ends: Date.parse(one.ends),
    says: `comes again ${reading(one.goes_reading)}, until ${reading(one.ends_reading)}`,
  }))
  const rows = inRows([...made, ...again], (span.ends - span.begins) / 9)
  return {
    site: first.site,
    name: first.site_name,
    zone: first.zone,
    blocks: rows.filter((one): one is Block & { again?: undefined } => !one.again),
    agains: rows.filter((one): one is Again & { again: true } => one.again === true),
    rows: Math.max(1, ...rows.map((one) => one.row + 1)),
  }
}

/** Each in the first row that is free; a block takes at least the room that its words need. */
function inRows<T extends { begins: number; ends: number | null }>(
  blocks: readonly T[],
  room: number,
): (T & { row: number })[] {
  const free: number[] = []
  return [...blocks]
    .sort((one, other) => one.begins - other.begins)
    .map((one) => {
      const until = Math.max(one.ends ?? one.begins, one.begins + room)
      const found = free.findIndex((at) => at <= one.begins)
      const row = found < 0 ? free.length : found
      free[row] = until
      return { ...one, row }
    })
}

/** Where an instant stands between the two ends, as a share; those outside stand at the edge. */
export const placed = (at: number, span: Span): number =>
  Math.min(Math.max((at - span.begins) / (span.ends - span.begins), 0), 1)
