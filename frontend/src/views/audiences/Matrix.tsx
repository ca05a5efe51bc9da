import { defaultRangeExtractor, useVirtualizer } from '@tanstack/react-virtual'
import { type CSSProperties, type KeyboardEvent, memo, useRef, useState } from 'react'
import { flushSync } from 'react-dom'
import type { Schemas } from '../../api/client'
import { usePrinting } from '../../parts/usePrinting'
import { markSize, SEEN_WORDS, seenMark } from './seenMark'

const ROW = 27
const CELL = 38
const NAME = 230
const HEAD = 38
/** The line before a cell: drawn where an audience begins. */
const RULE = 2
const CELL_WIDTH = { width: CELL }
/** Cells that are walked to come out from under the names and the head. */
const BOX = { ...markSize(CELL - RULE, ROW - 1), scrollPadding: `${HEAD}px 0 0 ${NAME}px` } as CSSProperties

interface Props {
  matrix: Schemas['MatrixOut']
  rows: readonly Schemas['SeenRow'][]
  /** The cell whose trace is shown. */
  traced: { item: string; column: number } | null
  onTrace: (item: string, column: number) => void
}

/** Names stay at the left by this: rows whose names are sticky cost a third more to scroll. */
function keepNames(box: HTMLElement): void {
  box.style.setProperty('--x', `${box.scrollLeft}px`)
}

/** Entries down, audiences and their devices across. The arrows walk the cells, Enter tells why. */
export function Matrix({ matrix, rows, traced, onTrace }: Props) {
  const box = useRef<HTMLDivElement>(null)
  const [at, setAt] = useState({ row: 0, column: 0 })
  const place = useRef(at)
  const go = (next: typeof at) => {
    place.current = next
    setAt(next)
  }
  const printing = usePrinting()
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => box.current,
    estimateSize: () => ROW,
    overscan: 6,
    rangeExtractor: (range) => (printing ? [...Array(range.count).keys()] : defaultRangeExtractor(range)),
  })
  const trace = (target: EventTarget) => {
    const [row, column] = cellOf(target) ?? []
    const item = rows[row ?? -1]?.item
    if (row === undefined || column === undefined || item === undefined) return
    go({ row, column })
    onTrace(item, column)
  }
  const walk = (event: KeyboardEvent) => {
    if ((event.key === 'Enter' || event.key === ' ') && cellOf(event.target)) {
      event.preventDefault()
      return trace(event.target)
    }
    const step = { ArrowDown: [1, 0], ArrowUp: [-1, 0], ArrowRight: [0, 1], ArrowLeft: [0, -1] }[event.key]
    if (!step) return
    event.preventDefault()
    const next = {
      row: Math.min(Math.max(place.current.row + (step[0] ?? 0), 0), rows.length - 1),
      column: Math.min(Math.max(place.current.column + (step[1] ?? 0), 0), matrix.columns.length - 1),
    }
    // The focus is there before the next key: whoever holds an arrow down loses no step, and Enter asks for what is seen.
    flushSync(() => go(next))
    virtual.scrollToIndex(next.row)
    const cell = box.current?.querySelector<HTMLElement>(`[data-cell="${next.row} ${next.column}"]`)
    cell?.focus({ preventScroll: true })
    cell?.scrollIntoView({ block: 'nearest', inline: 'nearest' })
    // In the same frame, and not once the browser tells of it.
    if (box.current) keepNames(box.current)
  }
  const audiences = [...new Set(matrix.columns.map((one) => one.audience))]
  const each = matrix.columns.length / Math.max(audiences.length, 1)
  const width = NAME + matrix.columns.length * CELL
  const template = `minmax(${NAME}px,1fr) repeat(${matrix.columns.length}, ${CELL}px)`
  return (
    <div
      ref={box}
      role="grid"
      aria-label="Who sees what"
      aria-rowcount={rows.length + 2}
      aria-colcount={matrix.columns.length + 1}
      className="min-h-0 flex-1 overflow-auto bg-paper print:overflow-visible"
      style={BOX}
      onScroll={({ currentTarget }) => keepNames(currentTarget)}
      onKeyDown={walk}
      onClick={(event) => trace(event.target)}
      onPointerOver={({ target }) => {
        // What a cell says is written to its title when somebody points at it: most cells are only scrolled past.
        const [row, column] = cellOf(target) ?? []
        const cell = matrix.cells[rows[row ?? -1]?.cells[column ?? -1] ?? -1]
        if (cell) (target as HTMLElement).title = told(cell)
      }}
    >
      <div className="sticky top-0 z-10 bg-paper" role="rowgroup" style={{ minWidth: width }}>
        <div
          role="row"
          aria-rowindex={1}
          tabIndex={-1}
          className="grid text-small"
          style={{ gridTemplateColumns: template }}
        >
          <span
            role="columnheader"
            tabIndex={-1}
            className="sticky left-0 z-10 bg-paper text-note text-ink-2"
          >
            audience
          </span>
          {audiences.map((one) => (
            <span
              key={one}
              role="columnheader"
              tabIndex={-1}
              aria-colspan={each}
              className="truncate border-l-2 border-wood px-1 font-bold"
              title={one}
              style={{ gridColumn: `span ${each}` }}
            >
              {one}
            </span>
          ))}
        </div>
        <div
          role="row"
          aria-rowindex={2}
          tabIndex={-1}
          className="grid border-b-2 border-wood text-note text-ink-2"
          style={{ gridTemplateColumns: template }}
        >
          <span role="columnheader" tabIndex={-1} className="sticky left-0 z-10 bg-paper">
            entry
          </span>
          {matrix.columns.map((one, index) => (
            <span
              key={index}
              role="columnheader"
              tabIndex={-1}
              className={`overflow-hidden text-center ${index % each === 0 ? 'border-l-2 border-wood' : ''}`}
              title={one.device}
            >
              {{ desktop: 'desk', tablet: 'tabl', phone: 'phone' }[one.device]}
            </span>
          ))}
        </div>
      </div>
      <div role="rowgroup" style={{ height: virtual.getTotalSize(), position: 'relative' }}>
        {virtual.getVirtualItems().map((line) => {
          const row = rows[line.index]
          if (!row) return null
          return (
            <MatrixRow
              key={row.item}
              row={row}
              matrix={matrix}
              index={line.index}
              top={line.start}
              each={each}
              width={width}
              focused={at.row === line.index ? at.column : -1}
              chosen={traced?.item === row.item ? traced.column : -1}
            />
          )
        })}
      </div>
    </div>
  )
}

/** The row and the column of the cell that an event met. */
function cellOf(target: EventTarget): [number, number] | null {
  const at = target instanceof HTMLElement ? target.dataset.cell?.split(' ').map(Number) : undefined
  return at ? (at as [number, number]) : null
}

const told = ({ seen, place, detail }: Schemas['SeenCell']): string =>
  `${SEEN_WORDS[seen]}${place ? ', in another place' : ''}${detail ? `: ${detail}` : ''}`

interface RowProps {
  row: Schemas['SeenRow']
  matrix: Schemas['MatrixOut']
  index: number
  top: number
  /** Columns of one audience. */
  each: number
  /** The least width of a row, in pixels. */
  width: number
  /** The column of the cell that the keyboard is on, and of the one that is traced; -1: in another row. */
  focused: number
  chosen: number
}

/** One entry. It is drawn once, however far the matrix is scrolled. */
const MatrixRow = memo(function MatrixRow(props: RowProps) {
  const { row, matrix, index, top, each, width, focused, chosen } = props
  return (
    <div
      role="row"
      tabIndex={-1}
      aria-rowindex={index + 3}
      className="absolute flex w-full border-b border-hair"
      style={{ height: ROW, top, minWidth: width }}
    >
      <span
        role="rowheader"
        tabIndex={-1}
        className={`relative left-(--x) z-[5] flex min-w-[230px] flex-1 items-center gap-2 truncate bg-paper text-body ${row.level === 1 ? 'font-bold' : ''}`}
        style={{ paddingLeft: (row.level - 1) * 18 }}
        title={row.never ? `${row.label}: nobody ever sees it, ${row.never}` : row.label}
      >
        <span className="truncate">{row.label}</span>
        {row.ever === 'never' && <small className="font-normal text-signal">never</small>}
      </span>
      {row.cells.map((number, column) => {
        const cell = matrix.cells[number]
        if (!cell) return null
        const about = matrix.columns[column]
        return (
          <span
            key={column}
            role="gridcell"
            data-cell={`${index} ${column}`}
            tabIndex={focused === column ? 0 : undefined}
            aria-selected={chosen === column}
            aria-label={`${row.label}, ${about?.audience} on a ${about?.device}: ${told(cell)}`}
            style={CELL_WIDTH}
            className={`flex-none cursor-pointer outline-dusk -outline-offset-2 ${chosen === column ? 'outline-2' : 'hover:outline'} ${seenMark(cell.seen, cell.place !== null)} border-l-2 ${column % each === 0 ? 'border-wood-2' : 'border-transparent'}`}
          />
        )
      })}
    </div>
  )
})
