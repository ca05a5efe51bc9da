import type { Schemas } from '../../api/client'

type Line = Schemas['RailLine']

/** A line of a rail, or how many untouched ones stand there. */
export type Row = { line: Line } | { more: number; key: string }

export interface Joint {
  /** Rows, counted from 0 on either side. */
  from: number
  to: number
  what: 'moved' | 'edited'
}

/** Untouched lines beside touched ones, so that one sees where these stand. */
const AROUND = 1

/** The lines with runs of untouched ones folded; what is joined to a touched line stays. */
export function folded(lines: readonly Line[]): Row[] {
  const near = lines.map((_, at) =>
    lines.slice(Math.max(0, at - AROUND), at + AROUND + 1).some((one) => one.what !== 'kept'),
  )
  const rows: Row[] = []
  let run: Line[] = []
  const close = () => {
    const [first] = run
    if (run.length > 2 && first) rows.push({ more: run.length, key: first.id })
    else rows.push(...run.map((line) => ({ line })))
    run = []
  }
  lines.forEach((line, at) => {
    if (near[at]) {
      close()
      rows.push({ line })
    } else run.push(line)
  })
  close()
  return rows
}

/** Where a line that moved, or was edited and stands in another row, is found again. */
export function joints(before: readonly Row[], after: readonly Row[]): Joint[] {
  const rowOf = new Map(after.flatMap((row, at) => ('line' in row ? [[row.line.id, at] as const] : [])))
  return before.flatMap((row, from) => {
    if (!('line' in row)) return []
    const { what, id } = row.line
    const to = rowOf.get(id)
    return to !== undefined && (what === 'moved' || what === 'edited') ? [{ from, to, what }] : []
  })
}
