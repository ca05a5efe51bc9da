import { useVirtualizer } from '@tanstack/react-virtual'
import { type ReactNode, useLayoutEffect, useRef, useState } from 'react'
import { usePrinting } from './usePrinting'
import { Waiting } from './Waiting'

export interface Column<Row> {
  says: string
  cell: (row: Row) => ReactNode
  /** What rows are ordered by when its head is pressed. */
  order?: (row: Row) => string | number
  /** Of its cells and its head: how wide it is and where its words stand. */
  room?: string
  /** Of its cells. */
  className?: string
  /** Whether its head is only read out. */
  quiet?: boolean
  /** Whether it says what its row is about. */
  head?: boolean
  /** Whether its word stands before the cell where lines stand below each other. */
  said?: boolean
}

interface Props<Row> {
  caption: string
  columns: readonly Column<Row>[]
  /** Undefined while they are not there yet. */
  rows: readonly Row[] | undefined
  keyOf: (row: Row) => string | number
  /** What stands in place of no rows. */
  empty: ReactNode
  className?: string
}

/** Beyond this, only the lines in sight are drawn. */
const MANY = 120
const LINE_PX = 34

/** Rows under heads that order them. On a narrow screen each row is lines below each other. */
export function Table<Row>({ caption, columns, rows, keyOf, empty, className = '' }: Props<Row>) {
  const [by, setBy] = useState<{ at: number; down: boolean } | null>(null)
  if (!rows) return <Waiting />
  if (rows.length === 0) return <>{empty}</>
  const order = by && columns[by.at]?.order
  const sorted = order ? [...rows].sort((one, other) => compared(order(one), order(other), by.down)) : rows
  const press = (at: number) =>
    setBy(by?.at === at ? (by.down ? null : { at, down: true }) : { at, down: false })
  return (
    <table
      className={`stacks w-full text-left ${className}`}
      aria-rowcount={rows.length > MANY ? rows.length + 1 : undefined}
    >
      <caption className="sr-only">{caption}</caption>
      <thead className="text-note text-ink-2">
        <tr>
          {columns.map((column, at) => (
            <th
              key={column.says}
              scope="col"
              aria-sort={by?.at === at ? (by.down ? 'descending' : 'ascending') : undefined}
              className={`py-1 font-normal ${column.room ?? ''}`}
            >
              {column.order ? (
                <button type="button" onClick={() => press(at)} className="min-h-6 hover:text-ink">
                  {column.says}
                  <span aria-hidden="true">{by?.at === at ? (by.down ? ' ↓' : ' ↑') : ''}</span>
                </button>
              ) : (
                <span className={column.quiet ? 'sr-only' : ''}>{column.says}</span>
              )}
            </th>
          ))}
        </tr>
      </thead>
      <Rows columns={columns} rows={sorted} keyOf={keyOf} />
    </table>
  )
}

function compared(one: string | number, other: string | number, down: boolean): number {
  const found =
    typeof one === 'number' && typeof other === 'number'
      ? one - other
      : String(one).localeCompare(String(other))
  return down ? -found : found
}

function Rows<Row>({
  columns,
  rows,
  keyOf,
}: Pick<Props<Row>, 'columns' | 'keyOf'> & { rows: readonly Row[] }) {
  const body = useRef<HTMLTableSectionElement>(null)
  const [scroller, setScroller] = useState<Element | null>(null)
  const printing = usePrinting()
  const many = rows.length > MANY && !printing
  useLayoutEffect(() => setScroller(body.current?.closest('main, [data-scrolls]') ?? null), [])
  const drawn = useVirtualizer({
    count: rows.length,
    enabled: many,
    getScrollElement: () => scroller,
    estimateSize: () => LINE_PX,
    overscan: 20,
    scrollMargin: body.current?.offsetTop ?? 0,
  })
  const shown = many ? drawn.getVirtualItems().map((one) => one.index) : [...rows.keys()]
  const items = drawn.getVirtualItems()
  const before = many ? Math.max((items[0]?.start ?? 0) - drawn.options.scrollMargin, 0) : 0
  const after = many ? drawn.getTotalSize() - ((items.at(-1)?.end ?? 0) - drawn.options.scrollMargin) : 0
  return (
    <tbody ref={body}>
      {before > 0 && <Room height={before} columns={columns.length} />}
      {shown.map((at) => {
        const row = rows[at]
        if (row === undefined) return null
        return (
          <tr
            key={keyOf(row)}
            data-index={at}
            ref={many ? drawn.measureElement : undefined}
            aria-rowindex={many ? at + 2 : undefined}
            className="border-t border-hair align-baseline"
          >
            {columns.map((column) => {
              const Cell = column.head ? 'th' : 'td'
              return (
                <Cell
                  key={column.says}
                  scope={column.head ? 'row' : undefined}
                  data-says={column.said ? column.says : undefined}
                  className={`py-1.5 ${column.room ?? ''} ${column.className ?? ''}`}
                >
                  {column.cell(row)}
                </Cell>
              )
            })}
          </tr>
        )
      })}
      {after > 0 && <Room height={after} columns={columns.length} />}
    </tbody>
  )
}

function Room({ height, columns }: { height: number; columns: number }) {
  return (
    <tr>
      <td colSpan={columns} style={{ height, padding: 0 }} />
    </tr>
  )
}
