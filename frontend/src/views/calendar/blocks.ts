/** What stands on a site's lane: each change from when it goes live until it comes back, in rows so that none covers another. */
import type { Schemas } from '../../api/client'

export type Ahead = Schemas['AheadOut']

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

export interface Lane {
  site: string
  name: string
  zone: string
  blocks: Block[]
  rows: number
}

export interface Span {
  begins: number
  ends: number
}

/** Lanes of the sites that have a moment ahead, by their names. */
export function lanesOf(ahead: readonly Ahead[], span: Span): Lane[] {
  const sites = new Map<string, Ahead[]>()
  for (const one of ahead) sites.set(one.site, [...(sites.get(one.site) ?? []), one])
  return [...sites.values()]
    .map((events) => laneOf(events, span))
    .sort((one, other) => one.name.localeCompare(other.name))
}

function laneOf(events: readonly Ahead[], span: Span): Lane {
  const first = events[0] as Ahead
  const made: Omit<Block, 'row'>[] = []
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
  const blocks = inRows(made, (span.ends - span.begins) / 9)
  return {
    site: first.site,
    name: first.site_name,
    zone: first.zone,
    blocks,
    rows: Math.max(1, ...blocks.map((one) => one.row + 1)),
  }
}

/** Each in the first row that is free; a block takes at least the room that its words need. */
function inRows(blocks: readonly Omit<Block, 'row'>[], room: number): Block[] {
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
