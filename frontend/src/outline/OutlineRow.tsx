import { useDraggable } from '@dnd-kit/core'
import { ChevronDown, ChevronRight } from 'lucide-react'
import { type KeyboardEvent, type MouseEvent, memo, useLayoutEffect, useRef } from 'react'
import { languageName } from '../lens/lens'
import { LEVEL_WIDTH, ROW_HEIGHT } from './drop'
import type { Row } from './tree'
import { differences, labelOf, leadsTo } from './words'

interface Props {
  row: Row
  position: number
  languages: readonly string[]
  /** The language whose labels stand beside the others. */
  second: string | null
  focused: boolean
  chosen: boolean
  /** Whether Tab from outside comes here. */
  reachable: boolean
  /** Which label is typed in. */
  typing: 'first' | 'second' | null
  folded: boolean
  lifted: boolean
  hidden: string | undefined
  /** Who else is on it. */
  others: string | undefined
  editable: boolean
  onKeyDown: (event: KeyboardEvent, row: Row) => void
  onChoose: (row: Row, typing: boolean, event?: MouseEvent) => void
  onSecond: (row: Row) => void
  onLabel: (row: Row, language: string, words: string) => void
  onFold: (row: Row) => void
  onTarget: (row: Row, anchor: DOMRect) => void
}

/** One line: number, rails, label, target, and what differs from the default. */
export const OutlineRow = memo(function OutlineRow(props: Props) {
  const { row, languages, second, focused, typing } = props
  const { item } = row
  const line = useRef<HTMLDivElement>(null)
  const input = useRef<HTMLInputElement>(null)
  const beside = useRef<HTMLInputElement>(null)
  const drag = useDraggable({ id: item.id, disabled: !props.editable })
  const main = languages[0] ?? 'en'
  const label = labelOf(item, languages)
  const own = 'label' in item && item.label ? item.label : {}
  const open = item.kind === 'link' && 'pending' in item.target
  const labelled = item.kind !== 'divider' && item.kind !== 'include'
  const canType = props.editable && labelled

  // Within the drawing itself: the next key, or the next place that takes the focus, finds it there.
  useLayoutEffect(() => {
    if (!focused) return
    const field = typing === 'first' ? input.current : typing === 'second' ? beside.current : null
    const goal = field ?? line.current
    if (goal && document.activeElement !== goal) goal.focus({ preventScroll: true })
  }, [focused, typing])

  return (
    <div
      ref={line}
      role="row"
      id={`line-${item.id}`}
      data-line={item.id}
      tabIndex={props.reachable && !typing ? 0 : -1}
      onFocus={(event) => event.target === line.current && !focused && props.onChoose(row, false)}
      aria-level={row.level}
      aria-posinset={row.index + 1}
      aria-setsize={row.size}
      aria-rowindex={props.position + 1}
      aria-expanded={row.hasChildren ? !props.folded : undefined}
      aria-selected={props.chosen}
      onKeyDown={(event) => props.onKeyDown(event, row)}
      // A press that chooses must not move the focus first: that alone would choose this line and no other.
      onMouseDown={(event) => (event.shiftKey || event.ctrlKey || event.metaKey) && event.preventDefault()}
      onClick={(event) => props.onChoose(row, false, event)}
      style={{ height: ROW_HEIGHT }}
      className={`group relative grid items-center pr-4 outline-none aria-selected:bg-plate ${second ? 'grid-cols-[var(--numbers)_minmax(0,1fr)_210px]' : 'grid-cols-[var(--numbers)_minmax(0,1fr)]'} ${focused ? 'rounded-sign shadow-[inset_0_0_0_1.5px_var(--ink)]' : props.chosen ? 'shadow-[inset_0_0_0_1px_var(--ink-3)]' : ''} ${props.lifted ? 'opacity-40' : ''}`}
    >
      <span
        role="gridcell"
        ref={drag.setNodeRef}
        {...drag.listeners}
        className={`mono pr-3 text-right text-note leading-[30px] text-ink-3 ${props.editable ? 'cursor-grab touch-none select-none group-hover:text-ink' : ''}`}
      >
        {row.number}
      </span>
      <Rails row={row} />
      <div
        role="gridcell"
        className="flex min-w-0 items-baseline gap-3 whitespace-nowrap"
        style={{ paddingLeft: (row.level - 1) * LEVEL_WIDTH }}
      >
        {typing === 'first' && canType ? (
          <input
            ref={input}
            dir="auto"
            aria-label={`Label of ${row.number}`}
            value={own[main] ?? ''}
            placeholder={label ? `${label}` : 'type a label, -> for its target'}
            onChange={(event) => props.onLabel(row, main, event.target.value)}
            onClick={(event) => event.stopPropagation()}
            className="max-w-[60%] min-w-12 flex-none bg-transparent text-head font-semibold outline-none [field-sizing:content] placeholder:font-normal placeholder:text-ink-3"
          />
        ) : item.kind === 'divider' ? (
          <span className="my-auto h-px w-24 self-center bg-ink-3">
            <span className="sr-only">divider</span>
          </span>
        ) : (
          // biome-ignore lint/a11y/useKeyWithClickEvents: F2 and Enter on the row do the same
          // biome-ignore lint/a11y/noStaticElementInteractions: as above
          <span
            dir="auto"
            onClick={(event) => {
              event.stopPropagation()
              props.onChoose(row, canType, event)
            }}
            className={`max-w-[60%] flex-none truncate text-head ${props.hidden ? 'text-ink-3' : 'font-semibold'} ${item.kind === 'listing' ? 'italic' : ''}`}
          >
            {label ||
              (item.kind === 'link' && 'page' in item.target ? (
                `@${item.target.page}`
              ) : item.kind === 'listing' ? (
                <span className="font-normal text-ink-3">in its place</span>
              ) : item.kind === 'include' ? (
                <span className="font-normal text-ink-3 not-italic">the lines of</span>
              ) : (
                <span className="font-normal text-ink-3">no label yet</span>
              ))}
          </span>
        )}
        {item.kind !== 'divider' && (
          <button
            type="button"
            tabIndex={-1}
            disabled={!props.editable}
            onClick={(event) => {
              event.stopPropagation()
              props.onTarget(row, event.currentTarget.getBoundingClientRect())
            }}
            aria-label={`Target of ${row.number}: ${leadsTo(item)}`}
            className={`mono truncate text-ink-2 ${open ? 'border-b-[1.5px] border-dashed border-ink-2' : ''}`}
          >
            {leadsTo(item)}
          </button>
        )}
        {differences(item).map((said) => (
          <small key={said} className="truncate border-l-2 border-dusk pl-1.5 text-note text-dusk">
            {said}
          </small>
        ))}
        {row.hasChildren && (
          <button
            type="button"
            tabIndex={-1}
            aria-label={props.folded ? `Unfold ${label}` : `Fold ${label} away`}
            onClick={(event) => {
              event.stopPropagation()
              props.onFold(row)
            }}
            className="self-center text-ink-3 opacity-0 group-hover:opacity-100 group-aria-[expanded=false]:opacity-100"
          >
            {props.folded ? <ChevronRight className="size-4" /> : <ChevronDown className="size-4" />}
          </button>
        )}
        {props.others && (
          <small className="ml-auto flex-none rounded-sign border border-dusk px-1.5 text-note text-dusk">
            <span className="sr-only">here: </span>
            {props.others}
          </small>
        )}
        {props.hidden && (
          <em className="ml-auto max-w-[40%] flex-none truncate pl-3 text-note text-ink-2 not-italic">
            {props.hidden}
          </em>
        )}
      </div>
      {second && (
        <div role="gridcell" className="min-w-0 border-l border-hair pl-3">
          {typing === 'second' && canType ? (
            <input
              ref={beside}
              dir="auto"
              lang={second}
              aria-label={`Label of ${row.number} in ${second}`}
              value={own[second] ?? ''}
              placeholder={`in ${second}`}
              onChange={(event) => props.onLabel(row, second, event.target.value)}
              onClick={(event) => event.stopPropagation()}
              className="w-full bg-transparent text-body outline-none placeholder:text-ink-3"
            />
          ) : (
            labelled && (
              // biome-ignore lint/a11y/useKeyWithClickEvents: Alt+L on the row does the same
              // biome-ignore lint/a11y/noStaticElementInteractions: as above
              <span
                dir="auto"
                lang={second}
                onClick={(event) => {
                  event.stopPropagation()
                  if (canType) props.onSecond(row)
                }}
                className={`block truncate text-body ${own[second] ? '' : 'border-b-[1.5px] border-dashed border-ink-3 text-ink-3'}`}
              >
                {own[second] ||
                  (Object.keys(own).length > 0 ? `not in ${languageName(second)}` : 'the page’s title')}
              </span>
            )
          )}
        </div>
      )}
    </div>
  )
})

/** The wooden rails that show which level a line stands on. */
function Rails({ row }: { row: Row }) {
  if (row.level === 1) return null
  return (
    <svg
      aria-hidden="true"
      className="pointer-events-none absolute top-0 left-[var(--numbers)] overflow-visible"
      width="1"
      height={ROW_HEIGHT}
    >
      {row.rails.map((goesOn, at) => {
        const x = at * LEVEL_WIDTH + 8
        const own = at === row.level - 2
        const last = own && row.index === row.size - 1
        if (!own && !row.rails[at + 1] && at + 1 < row.rails.length) return null
        if (!own && !goesOn && at + 1 >= row.rails.length) return null
        return (
          <path
            key={at}
            d={own ? `M${x} 0V${last ? 15 : ROW_HEIGHT}M${x} 15h12` : `M${x} 0V${ROW_HEIGHT}`}
            stroke="var(--wood-2)"
            strokeWidth="2"
          />
        )
      })}
    </svg>
  )
}
