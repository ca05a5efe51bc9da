import {
  DndContext,
  type DragEndEvent,
  type DragMoveEvent,
  PointerSensor,
  useSensor,
  useSensors,
} from '@dnd-kit/core'
import { defaultRangeExtractor, type Range, useVirtualizer } from '@tanstack/react-virtual'
import {
  type ClipboardEvent,
  type CSSProperties,
  type KeyboardEvent,
  type MouseEvent,
  useCallback,
  useEffect,
  useLayoutEffect,
  useRef,
  useState,
} from 'react'
import { flushSync } from 'react-dom'
import { headsOf, itemsOf, moveAll } from './block'
import { type Bounds, carryOut, LOOKING } from './carryOut'
import type { Choice } from './choices'
import type { Incoming } from './clipboard'
import { type Landing, LEVEL_WIDTH, type Limit, landing, ROW_HEIGHT } from './drop'
import { intentOf, pressed } from './keys'
import { OutlineRow } from './OutlineRow'
import { pointed, relabelled } from './pointing'
import { TargetChooser } from './TargetChooser'
import {
  blankLine,
  find,
  type Item,
  insert,
  isBlank,
  pathTo,
  type Row,
  remove,
  type Target,
  update,
} from './tree'
import { useClipboard } from './useClipboard'
import type { Editor } from './useEditor'
import { labelOf } from './words'

interface Props {
  site: string
  menu: string
  /** The menu as it is saved. */
  hash: string
  editor: Editor
  languages: readonly string[]
  /** The language whose labels stand beside the others; null hides them. */
  second: string | null
  limit: Limit | null
  hidden: ReadonlyMap<string, string>
  /** By the line: who else is on it. */
  onLines: ReadonlyMap<string, string>
  editable: boolean
  /** The line whose target is being chosen, with the place of the chooser. */
  choosing: Choosing | null
  onChoosing: (choosing: Choosing | null) => void
  onFind: () => void
  onDoubt: (text: string, found: Incoming[]) => void
}

export interface Choosing {
  id: string
  anchor: DOMRect
}

/** Room above the first line, in px. */
const ABOVE_FIRST = 6

/** The width of the column of numbers, in px: the longest is seen whole. */
const numbersWidth = (rows: readonly Row[]): number =>
  Math.max(60, 24 + NUMBER_WIDTH * Math.max(0, ...rows.map((row) => row.number.length)))
/** Of one digit at 12 px in the mono face. */
const NUMBER_WIDTH = 7.2

type Drop = Landing & { at: number }

// The same objects at every key: with others, every line would be made draggable anew.
const LIFTING = { activationConstraint: { distance: 4 } }
/** What a drag comes to is said by the outline itself, in its own words. */
const TOLD = {
  screenReaderInstructions: { draggable: 'Alt and the arrow keys move the line.' },
  announcements: {
    onDragStart: () => undefined,
    onDragOver: () => undefined,
    onDragEnd: () => undefined,
    onDragCancel: () => undefined,
  },
}

/** The tree as lines, keyboard first. Rows are virtualised; a screen reader gets level, position and size of each. */
export function Outline(props: Props) {
  const { site, editor, languages, second, limit, hidden, editable, choosing, onChoosing } = props
  const scroller = useRef<HTMLDivElement>(null)
  const [drop, setDrop] = useState<Drop | null>(null)
  const [lifted, setLifted] = useState<ReadonlySet<string>>(NONE)
  const sensors = useSensors(useSensor(PointerSensor, LIFTING))
  const liftedAt = lifted.size > 0 ? editor.rows.findIndex((row) => lifted.has(row.item.id)) : -1
  const focusId = editor.focus?.id
  const focusAt = focusId ? editor.rows.findIndex((row) => row.item.id === focusId) : -1
  const rowsShown = useVirtualizer({
    count: editor.rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW_HEIGHT,
    overscan: 6,
    // The first lines are drawn at once, before it is known how many there is room for.
    initialRect: { width: 0, height: 10 * ROW_HEIGHT },
    paddingStart: ABOVE_FIRST,
    // The line before the first and after the last that is seen whole is seen too: one sees what one moves towards.
    scrollPaddingStart: ROW_HEIGHT,
    scrollPaddingEnd: ROW_HEIGHT,
    // Lines drawn beyond the edge bridge the moment until the next ones are: a scroll needs no drawing of its own at once.
    useFlushSync: false,
    // The line with the focus, and one that is lifted, stay drawn however far they are: keys and the drag hang on them.
    rangeExtractor: useCallback(
      (range: Range) => {
        const shown = defaultRangeExtractor(range)
        const far = [focusAt, liftedAt].filter((at) => at >= 0 && !shown.includes(at))
        return far.length > 0 ? [...new Set([...shown, ...far])].sort((one, other) => one - other) : shown
      },
      [focusAt, liftedAt],
    ),
  })
  const clipboard = useClipboard({
    site,
    menu: props.menu,
    language: languages[0] ?? 'en',
    limit,
    onDoubt: props.onDoubt,
  })
  const current = useRef({
    editor,
    bounds: { languages, limit } as Bounds,
    editable,
    second,
    clipboard,
    props,
  })
  current.current = { editor, bounds: { languages, limit }, editable, second, clipboard, props }

  useLayoutEffect(() => {
    const seen = rowsShown.range
    // A line well within sight needs no scrolling, and asking for it would lay everything out once more.
    if (focusAt < 0 || (seen && focusAt > seen.startIndex + 1 && focusAt < seen.endIndex - 1)) return
    rowsShown.scrollToIndex(focusAt, { align: 'auto' })
  }, [focusAt, rowsShown])
  // Where the list gets lower, as when findings come up below it, a line that was in sight stays in sight.
  const height = rowsShown.scrollRect?.height
  const inSight = useRef(false)
  useLayoutEffect(() => {
    if (inSight.current) rowsShown.scrollToIndex(focusAt, { align: 'auto' })
  }, [height])
  useLayoutEffect(() => {
    const seen = rowsShown.range
    inSight.current = seen !== null && focusAt >= seen.startIndex && focusAt <= seen.endIndex
  })
  const drawn = useRef(editor.rows)
  useEffect(() => {
    const before = drawn.current
    drawn.current = editor.rows
    if (!focusId || focusAt >= 0) return
    // The cursor stays in a field outside the outline, such as the one that finds lines.
    const active = document.activeElement
    if (active instanceof HTMLInputElement && !scroller.current?.contains(active)) return editor.choose(null)
    const path = pathTo(editor.tree, focusId)
    const shown = new Set(editor.rows.map((row) => row.item.id))
    // What is folded away gives the focus to the line that it was folded into, what is gone to the line above.
    const goal =
      path.length > 0
        ? path.find((id) => shown.has(id))
        : (
            before
              .slice(0, before.findIndex((row) => row.item.id === focusId) + 1)
              .findLast((row) => shown.has(row.item.id)) ?? editor.rows[0]
          )?.item.id
    editor.choose(goal ? { id: goal, typing: false } : null)
  }, [focusId, focusAt, editor.choose, editor.tree, editor.rows])

  const startChoosing = useCallback(
    (row: Row, anchor?: DOMRect) => {
      const line = document.getElementById(`line-${row.item.id}`)
      const place = anchor ?? line?.querySelector('input, button')?.getBoundingClientRect()
      if (place) onChoosing({ id: row.item.id, anchor: place })
    },
    [onChoosing],
  )

  const onKeyDown = useCallback(
    (event: KeyboardEvent, row: Row) => {
      const { editor: now, bounds, editable: may, second: beside, clipboard: board } = current.current
      const typing = event.target instanceof HTMLInputElement
      if (typing && isBlank(row.item) && !row.hasChildren && event.key === 'Backspace') {
        event.preventDefault()
        const above = now.rows[now.rows.findIndex((one) => one.item.id === row.item.id) - 1]
        return now.edit(remove(now.tree, row.item.id), above ? { id: above.item.id, typing: true } : null)
      }
      if (
        typing &&
        now.focus?.second &&
        !event.nativeEvent.isComposing &&
        (event.key === 'Tab' || event.key === 'Enter')
      ) {
        const next = besideLabel(now.rows, row, event.shiftKey ? -1 : 1)
        if (next) {
          event.preventDefault()
          event.stopPropagation()
          return now.choose({ id: next.item.id, typing: true, second: true })
        }
      }
      const intent = intentOf(event, typing)
      if (!intent || (!may && !LOOKING.has(intent))) return
      event.preventDefault()
      event.stopPropagation()
      switch (intent) {
        case 'target':
          return startChoosing(row)
        case 'find':
          return current.current.props.onFind()
        case 'levels': {
          const level = Number(pressed(event).at(-1))
          return now.foldTo(level || null)
        }
        case 'language':
          if (!beside) return now.say('Choose a second language above the outline first.')
          return now.choose({ id: row.item.id, typing: true, second: !now.focus?.second })
        case 'copy':
        case 'cut': {
          const heads = headsOf(now.tree, now.chosen)
          board.copy(itemsOf(now.tree, heads), now.say)
          if (intent === 'cut') carryOut(now, 'remove', row, false, bounds)
          return
        }
        default:
          carryOut(now, intent, row, typing, bounds)
      }
    },
    [startChoosing],
  )
  const onPaste = (event: ClipboardEvent) => {
    if (!editable || !clipboard.takes(event.clipboardData)) return
    event.preventDefault()
    clipboard.paste(event.clipboardData, () => current.current.editor)
  }
  const onChoose = useCallback((row: Row, typing: boolean, event?: MouseEvent) => {
    const { editor: now } = current.current
    const id = row.item.id
    if (event?.shiftKey && now.focus) {
      const ids = now.rows.map((one) => one.item.id)
      const ends = [ids.indexOf(now.focus.id), ids.indexOf(id)].sort((a, b) => a - b)
      return now.chooseMany(ids.slice(ends[0], (ends[1] ?? 0) + 1), { id, typing: false })
    }
    if (event?.ctrlKey || event?.metaKey) {
      const next = new Set(now.chosen)
      if (!next.delete(id)) next.add(id)
      const focus = next.has(id) ? id : [...next].at(-1)
      return focus ? now.chooseMany(next, { id: focus, typing: false }) : now.choose(null)
    }
    now.choose({ id, typing })
  }, [])
  const onSecond = useCallback((row: Row) => {
    current.current.editor.choose({ id: row.item.id, typing: true, second: true })
  }, [])
  const onLabel = useCallback(
    (row: Row, language: string, words: string) => {
      const { editor: now, bounds } = current.current
      const main = language === (bounds.languages[0] ?? 'en')
      const arrow = main ? words.indexOf('->') : -1
      const kept = arrow >= 0 ? (words.slice(0, arrow) + words.slice(arrow + 2)).trim() : words
      now.edit(
        update(now.tree, row.item.id, (item) => relabelled(item, language, kept)),
        { id: row.item.id, typing: true, second: !main },
        `label ${language} ${row.item.id}`,
      )
      if (arrow >= 0) startChoosing(row)
    },
    [startChoosing],
  )
  const onFold = useCallback((row: Row) => {
    const { editor: now } = current.current
    now.fold(row.item.id, !now.folded.has(row.item.id))
  }, [])

  const finishChoosing = () => {
    const id = choosing?.id
    // At once, not on the next frame: whoever types fast presses the next key before that.
    flushSync(() => {
      onChoosing(null)
      if (id) editor.choose({ id, typing: true })
    })
    const line = id ? document.getElementById(`line-${id}`) : null
    ;(line?.querySelector('input') ?? line)?.focus()
  }
  const chooseGoal = (choice: Choice) => {
    if (!choosing) return
    editor.edit(update(editor.tree, choosing.id, (item) => pointed(item, choice, languages[0] ?? 'en')))
    finishChoosing()
  }
  /** Until it is found the words stand there as a note, so that they are not lost whatever comes of the search. */
  const chooseGoalLater = (words: string, found: Promise<Choice | undefined>) => {
    if (!choosing) return
    const { id } = choosing
    const run = `target ${id} ${words}`
    const point = (goal: Choice) => (item: Item) => pointed(item, goal, languages[0] ?? 'en')
    editor.edit(update(editor.tree, id, point(noted(words))), undefined, run)
    finishChoosing()
    const put = (goal: Choice | undefined) => {
      const { editor: now } = current.current
      const item = find(now.now(), id)?.item
      if (goal && item?.kind === 'link' && isNoted(item.target, words))
        // At once: the next key press edits the tree that is drawn.
        flushSync(() => now.edit(update(now.now(), id, point(goal)), undefined, run))
    }
    found.then(put, () =>
      current.current.editor.say(`The pages could not be searched: “${words}” stands there as it is.`),
    )
  }

  const landingOf = (event: DragMoveEvent | DragEndEvent): Drop | null => {
    const from = editor.rows.findIndex((row) => row.item.id === event.active.id)
    const row = editor.rows[from]
    if (!row) return null
    const moving = itemsOf(editor.tree, headsOf(editor.tree, lifted))
    const inside = new Set(moving.flatMap((item) => idsIn(item)))
    const wanted = Math.round((from * ROW_HEIGHT + ROW_HEIGHT / 2 + event.delta.y) / ROW_HEIGHT)
    let at = Math.max(0, Math.min(editor.rows.length, wanted))
    // Between lines that are lifted themselves nothing can land: what stands there is the first of them.
    while (
      at > 0 &&
      at < editor.rows.length &&
      inside.has(editor.rows[at - 1]?.item.id ?? '') &&
      inside.has(editor.rows[at]?.item.id ?? '')
    )
      at -= 1
    const rest = editor.rows.filter((one) => !inside.has(one.item.id))
    const above = editor.rows.slice(0, at).filter((one) => !inside.has(one.item.id)).length
    const level = row.level + Math.round(event.delta.x / LEVEL_WIDTH)
    return { ...landing(rest, moving, above * ROW_HEIGHT, level, limit), at }
  }
  const startDrag = (id: string) => {
    const lines = editor.chosen.has(id) ? editor.chosen : new Set([id])
    const item = find(editor.tree, id)?.item
    setLifted(lines)
    said.current = ''
    editor.say(
      lines.size > 1 ? `Lifted ${lines.size} lines.` : `Lifted ${item ? labelOf(item, languages) : ''}.`,
    )
  }
  const putDown = () => {
    setDrop(null)
    setLifted(NONE)
    said.current = null
  }
  /** What was said last of the drag; null while there is none: a list that scrolled on tells of a move after its end. */
  const said = useRef<string | null>(null)
  /** Where the lines would land is drawn, and said once each time that it is another place. */
  const hover = (event: DragMoveEvent) => {
    if (said.current === null) return
    const spot = landingOf(event)
    setDrop(spot)
    if (!spot) return
    const above = editor.rows[spot.at - 1]?.item
    const where = spot.parent ? `under ${labelOf(spot.parent, languages)}` : 'at the top'
    const says =
      spot.refusal ??
      `Level ${spot.level}, ${where}${above ? `, after ${labelOf(above, languages)}` : ', first'}`
    if (says === said.current) return
    said.current = says
    editor.say(`${says}.`)
  }
  const endDrag = (event: DragEndEvent) => {
    const spot = landingOf(event)
    const heads = headsOf(editor.tree, lifted)
    putDown()
    if (!spot || heads.length === 0) return
    if (spot.refusal) return editor.say(`${spot.refusal}.`)
    const id = String(event.active.id)
    editor.edit(moveAll(editor.tree, heads, spot), heads.length > 1 ? undefined : { id, typing: false })
    const item = find(editor.tree, id)?.item
    const what = heads.length > 1 ? `${heads.length} lines` : item ? labelOf(item, languages) : ''
    editor.say(`${what} dropped ${spot.parent ? `under ${labelOf(spot.parent, languages)}` : 'at the top'}.`)
  }

  const addAtEnd = () => {
    const line = blankLine()
    editor.find('')
    editor.edit(insert(editor.tree, line, { parentId: null, index: editor.tree.length }))
    editor.choose({ id: line.id, typing: true })
  }

  // A menu from nothing opens with the cursor in its first line.
  const empty = useRef(editable && editor.tree.length === 0)
  const begin = useRef(addAtEnd)
  begin.current = addAtEnd
  useEffect(() => {
    if (empty.current) begin.current()
    empty.current = false
  }, [])

  return (
    <div className="flex min-h-0 flex-1 flex-col" onPaste={onPaste}>
      <div
        ref={scroller}
        className="min-h-0 flex-1 overflow-auto"
        style={{ '--numbers': `${numbersWidth(editor.rows)}px` } as CSSProperties}
      >
        <DndContext
          sensors={sensors}
          onDragStart={(event) => startDrag(String(event.active.id))}
          onDragMove={hover}
          onDragEnd={endDrag}
          onDragCancel={() => {
            putDown()
            editor.say('Put back where it was.')
          }}
          accessibility={TOLD}
        >
          <div
            role="treegrid"
            aria-label="Outline of the menu"
            aria-rowcount={editor.rows.length}
            aria-colcount={second ? 3 : 2}
            aria-multiselectable="true"
            className="relative"
            style={{ height: rowsShown.getTotalSize() }}
          >
            {rowsShown.getVirtualItems().map((shown) => {
              const row = editor.rows[shown.index]
              if (!row) return null
              const focused = editor.focus?.id === row.item.id
              return (
                <div
                  key={row.item.id}
                  role="presentation"
                  className="absolute inset-x-0"
                  style={{ transform: `translateY(${shown.start}px)` }}
                >
                  <OutlineRow
                    row={row}
                    position={shown.index}
                    languages={languages}
                    second={second}
                    focused={focused}
                    chosen={editor.chosen.has(row.item.id)}
                    reachable={editor.focus ? focused : shown.index === 0}
                    typing={
                      focused && editor.focus?.typing ? (editor.focus.second ? 'second' : 'first') : null
                    }
                    folded={editor.folded.has(row.item.id)}
                    lifted={lifted.has(row.item.id)}
                    hidden={hidden.get(row.item.id)}
                    others={props.onLines.get(row.item.id)}
                    editable={editable}
                    onKeyDown={onKeyDown}
                    onChoose={onChoose}
                    onSecond={onSecond}
                    onLabel={onLabel}
                    onFold={onFold}
                    onTarget={startChoosing}
                  />
                </div>
              )
            })}
            {drop && <Guide drop={drop} languages={languages} limit={limit} />}
          </div>
        </DndContext>
        {editable && !editor.finding && (
          <button
            type="button"
            onClick={addAtEnd}
            className="grid h-[30px] w-full grid-cols-[var(--numbers)_minmax(0,1fr)] items-center text-left text-ink-3 hover:text-ink"
          >
            <span className="mono pr-3 text-right text-note">{editor.tree.length + 1}</span>
            type a label, -&gt; where it leads, or paste a list
          </button>
        )}
        {editor.finding && editor.rows.length === 0 && (
          <p className="px-[var(--numbers)] py-1 text-ink-2">No line holds “{editor.finding}”.</p>
        )}
      </div>
      <p
        role="status"
        aria-live="polite"
        className="min-h-[22px] border-t border-hair px-[18px] py-0.5 text-small text-ink-2"
      >
        {editor.spoken}
      </p>
      {choosing && (
        <TargetChooser
          site={site}
          menu={props.menu}
          hash={props.hash}
          language={languages[0] ?? 'en'}
          anchor={choosing.anchor}
          wanted={wantedOf(find(editor.tree, choosing.id)?.item, languages)}
          noted={noteOf(find(editor.tree, choosing.id)?.item) !== ''}
          onChoose={chooseGoal}
          onChooseLater={chooseGoalLater}
          onClose={finishChoosing}
        />
      )}
    </div>
  )
}

const NONE: ReadonlySet<string> = new Set()

/** The next line that has a label, up or down: whoever types one language goes from label to label. */
function besideLabel(rows: readonly Row[], row: Row, step: 1 | -1): Row | undefined {
  const at = rows.findIndex((one) => one.item.id === row.item.id)
  const there = step > 0 ? rows.slice(at + 1) : rows.slice(0, at).reverse()
  return there.find(({ item }) => item.kind !== 'divider' && item.kind !== 'include')
}

/** What the words stand for until the pages were looked through: an address, or a note of what is meant. */
const noted = (words: string): Choice => ({
  kind: 'link',
  target: /^\/[^\s{}]*$/.test(words) ? { url: words } : { pending: { note: words } },
})

const isNoted = (target: Target, words: string): boolean =>
  'url' in target ? target.url === words : 'pending' in target && target.pending.note === words

/** What a line most likely leads to: what its note says, or the page with the title that is its label. */
function wantedOf(item: Item | undefined, languages: readonly string[]): string {
  if (!item) return ''
  return noteOf(item) || ('label' in item && item.label?.[languages[0] ?? 'en']) || ''
}

/** What somebody wrote down for a target that is still to come. */
function noteOf(item: Item | undefined): string {
  return (item?.kind === 'link' && 'pending' in item.target && item.target.pending.note) || ''
}

const idsIn = (item: Row['item']): string[] => [
  item.id,
  ...('items' in item && item.items ? item.items.flatMap(idsIn) : []),
]

/** Where the lifted lines would land: at which level, under whom, how deep the place goes, or why not. */
function Guide({
  drop,
  languages,
  limit,
}: {
  drop: Drop
  languages: readonly string[]
  limit: Limit | null
}) {
  const colour = drop.refusal ? 'bg-signal' : 'bg-dusk'
  const of = limit ? ` of ${limit.depth}` : ''
  return (
    <div
      className="pointer-events-none absolute right-4 z-10 flex items-center"
      style={{
        top: ABOVE_FIRST + drop.at * ROW_HEIGHT - 9,
        left: `calc(var(--numbers) + ${(drop.level - 1) * LEVEL_WIDTH}px)`,
        height: 18,
      }}
      data-guide={drop.refusal ? 'refused' : 'allowed'}
    >
      <span className={`h-[3px] flex-1 ${colour}`} />
      <span className={`rounded-sign px-2 text-note leading-[18px] text-paper ${colour}`}>
        {drop.refusal ??
          (drop.parent
            ? `level ${drop.level}${of}, under ${labelOf(drop.parent, languages)}`
            : `level 1${of}, at the top`)}
      </span>
    </div>
  )
}
