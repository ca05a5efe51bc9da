import { useQuery } from '@tanstack/react-query'
import { useMemo } from 'react'
import type { Schemas } from '../../api/client'
import { aheadQuery, findingCountsQuery, openChangesQuery, sessionQuery } from '../../api/queries'
import { type Order, SHOWS, type Show } from '../../app/shelf'

type Line = Schemas['ShelfLine']

const WEEK_MS = 7 * 86_400_000

/** The name of the group that a site stands in. */
export type Under = (line: Line) => string

const GROUPED: Partial<Record<Order, Under>> = {
  'by template': (line) => line.template,
  'by client': (line) => line.client ?? '',
  'by team': (line) => line.teams.join(', '),
}

const placed = (group: string) => group || '\uffff'

/** Which sites answer to each of the shelf's questions, and the lines in the order that is wanted. */
export function useShelf(lines: readonly Line[], show: Show | undefined, order: Order | undefined) {
  const person = useQuery(sessionQuery).data
  const stops = useQuery(findingCountsQuery).data
  const open = useQuery(openChangesQuery).data
  const ahead = useQuery(aheadQuery).data
  return useMemo(() => {
    const waits = new Set(
      (open ?? []).filter((one) => one.waits_for_me).flatMap((one) => one.sites.map((at) => at.key)),
    )
    const soon = new Set(
      (ahead ?? []).filter((one) => Date.parse(one.at) - Date.now() < WEEK_MS).map((one) => one.site),
    )
    const mayEdit = (line: Line) => person?.may_edit_at[line.key] ?? person?.may_edit ?? false
    const stopped = (line: Line) => stops?.[line.key]?.stop ?? 0
    const holds: Record<Show, (line: Line) => boolean> = {
      'wants me': (line) => waits.has(line.key) || (line.release_state === 'by hand' && mayEdit(line)),
      broken: (line) => stopped(line) > 0 || line.release_state === 'failed',
      drifted: (line) => line.drifted > 0,
      'this week': (line) => soon.has(line.key),
      mine: (line) => line.change !== null || person?.may_edit_at[line.key] === true,
    }
    const counts = Object.fromEntries(SHOWS.map((one) => [one, lines.filter(holds[one]).length])) as Record<
      Show,
      number
    >
    const trouble = (line: Line) =>
      (line.release_state === 'failed' ? 1_000 : 0) + line.drifted * 100 + stopped(line) * 10 + line.pending
    const shown = show ? lines.filter(holds[show]) : [...lines]
    if (order === 'by trouble') shown.sort((one, other) => trouble(other) - trouble(one))
    const under = order ? GROUPED[order] : undefined
    // What is in no group stands at the end.
    if (under) shown.sort((one, other) => placed(under(one)).localeCompare(placed(under(other))))
    return { shown, counts, under }
  }, [lines, show, order, person, stops, open, ahead])
}
