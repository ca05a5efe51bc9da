import { defaultRangeExtractor, type Range, useVirtualizer } from '@tanstack/react-virtual'
import { useCallback, useLayoutEffect, useRef, useState } from 'react'
import type { Schemas } from '../../api/client'
import { monthOf } from '../../parts/times'
import { usePrinting } from '../../parts/usePrinting'
import { Board } from './Board'
import { DenseBoard } from './DenseBoard'
import type { Under } from './useShelf'
import { walkSigns } from './walk'

/** Pixels of a board with one row of signs. */
const USUAL_HEIGHT = 134

/** Of one that is a line. */
const DENSE_HEIGHT = 28

interface Props {
  lines: readonly Schemas['ShelfLine'][]
  /** Whether each is a line, and no signs are drawn. */
  dense: boolean
  /** Those of one group stand together, under its name. */
  under: Under | undefined
  /** Whether the groups are clients, whose months can be had. */
  reports: boolean
}

/** The boards one below the other; only those in sight, and a few beyond, are there. */
export function Boards({ lines, dense, under, reports }: Props) {
  const boards = useRef<HTMLDivElement>(null)
  const printing = usePrinting()
  const [above, setAbove] = useState(0)
  const [focused, setFocused] = useState<string | null>(null)
  const focusAt = focused === null ? -1 : lines.findIndex((line) => line.key === focused)
  // What stands above the boards in what scrolls may come and go.
  useLayoutEffect(() => {
    const list = boards.current
    const scroller = list?.closest('main')
    if (!list?.parentElement || !scroller) return
    const measured = () =>
      setAbove(
        Math.round(
          list.getBoundingClientRect().top - scroller.getBoundingClientRect().top + scroller.scrollTop,
        ),
      )
    const watch = new ResizeObserver(measured)
    for (const beside of list.parentElement.children) if (beside !== list) watch.observe(beside)
    measured()
    return () => watch.disconnect()
  }, [])
  const shown = useVirtualizer({
    count: lines.length,
    getScrollElement: () => boards.current?.closest('main') ?? null,
    getItemKey: (at) => lines[at]?.key ?? at,
    estimateSize: () => (dense ? DENSE_HEIGHT : USUAL_HEIGHT),
    overscan: dense ? 20 : 4,
    scrollMargin: above,
    useFlushSync: false,
    isScrollingResetDelay: 80,
    // Told by the browser once it has laid a board out, never asked for in the middle of drawing.
    measureElement: (_, told, list) => told?.borderBoxSize[0]?.blockSize ?? list.options.estimateSize(0),
    // The board with the focus stays, however far it is: keys hang on it.
    rangeExtractor: useCallback(
      (range: Range) => {
        if (printing) return [...Array(range.count).keys()]
        const inSight = defaultRangeExtractor(range)
        if (focusAt < 0 || inSight.includes(focusAt)) return inSight
        return [...inSight, focusAt].sort((one, other) => one - other)
      },
      [focusAt, printing],
    ),
  })
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: the signs inside take the focus, the arrows walk among them
    <div
      ref={boards}
      className="relative"
      style={{ height: shown.getTotalSize() }}
      onKeyDown={(event) => walkSigns(event, boards.current)}
      onFocus={(event) => setFocused(event.target.closest<HTMLElement>('[data-site]')?.dataset.site ?? null)}
      onBlur={() => setFocused(null)}
    >
      {shown.getVirtualItems().map((one) => {
        const line = lines[one.index]
        return (
          line && (
            <div
              key={one.key}
              ref={shown.measureElement}
              data-index={one.index}
              data-site={line.key}
              className="absolute top-0 left-0 w-full [contain:layout_style]"
              style={{ transform: `translateY(${one.start - above}px)` }}
            >
              {under && (one.index === 0 || under(line) !== under(lines[one.index - 1] ?? line)) && (
                <h2 className="flex items-baseline gap-x-3 pt-3 text-small font-bold text-ink-2">
                  {under(line) || 'the others'}
                  {reports && line.client && <Reports client={line.client} />}
                </h2>
              )}
              {dense ? <DenseBoard line={line} /> : <Board line={line} still={!shown.isScrolling} />}
            </div>
          )
        )
      })}
    </div>
  )
}

/** This month and the one that is over, to print or to send. */
function Reports({ client }: { client: string }) {
  return [0, 1].map((back) => {
    const { month, named } = monthOf(back)
    return (
      <a
        key={back}
        href={`/api/shelf/report?client=${encodeURIComponent(client)}&month=${month}`}
        target="_blank"
        rel="noopener"
        className="font-normal underline"
      >
        report of {named}
      </a>
    )
  })
}
