/** The editor's state for React: the tree with its history, what is folded, which lines are chosen, which is typed in. */
import { useCallback, useMemo, useReducer, useRef, useState } from 'react'
import { flushSync } from 'react-dom'
import { brought, editsBetween } from './brought'
import { begin, type History, reduce, type State } from './history'
import { flatten, foldedAt, pathTo, type Row, type Tree } from './tree'
import { differences, labelOf, leadsTo } from './words'

export interface Focus {
  id: string
  typing: boolean
  /** Whether the second language's label is typed in. */
  second?: boolean
}

export interface Editor {
  tree: Tree
  /** What the menu is called. */
  name: string
  history: History
  rows: Row[]
  focus: Focus | null
  /** The chosen lines; the focused one is always among them. */
  chosen: ReadonlySet<string>
  folded: ReadonlySet<string>
  /** The words that lines are found by; empty shows all lines. */
  finding: string
  canUndo: boolean
  canRedo: boolean
  /** What a screen reader is told after a move. */
  spoken: string
  edit: (tree: Tree, focus?: Focus | null, run?: string) => void
  rename: (name: string) => void
  /** Another state of the menu as one step. */
  put: (state: State) => void
  /** The tree as it is now: what is drawn a moment later edits this one, and not the one that it shows. */
  now: () => Tree
  choose: (focus: Focus | null) => void
  /** Chooses the first line shown now, however long ago what asks for it was drawn. */
  chooseFirst: () => void
  /** Chooses several lines, the focused one among them. */
  chooseMany: (ids: Iterable<string>, focus: Focus) => void
  /** Chooses a line wherever it is, opening what it is folded away in. */
  reveal: (id: string) => void
  find: (words: string) => void
  fold: (id: string, closed: boolean) => void
  /** Folds everything below a level away; null opens all. */
  foldTo: (level: number | null) => void
  undo: () => void
  redo: () => void
  /** Brings in what somebody else did, which leads from one state to the other; the tree as it is then. */
  bring: (before: State, after: State) => Tree
  say: (words: string) => void
}

const NONE: ReadonlySet<string> = new Set()

/** The lines that hold the words, with those that they stand under. */
function found(rows: Row[], words: string, languages: readonly string[]): Row[] {
  const wanted = words.toLocaleLowerCase().split(/\s+/).filter(Boolean)
  const kept = new Set<string>()
  for (const row of rows.toReversed()) {
    const text =
      `${labelOf(row.item, languages)} ${leadsTo(row.item)} ${differences(row.item).join(' ')}`.toLocaleLowerCase()
    if (!kept.has(row.item.id) && !wanted.every((word) => text.includes(word))) continue
    kept.add(row.item.id)
    if (row.parentId) kept.add(row.parentId)
  }
  return rows.filter((row) => kept.has(row.item.id))
}

export function useEditor(start: State, remembered: History | null, languages: readonly string[]): Editor {
  const [history, dispatch] = useReducer(reduce, start, (state) => remembered ?? begin(state))
  const [folded, setFolded] = useState<ReadonlySet<string>>(NONE)
  const [focus, setFocus] = useState<Focus | null>(null)
  const [many, setMany] = useState<ReadonlySet<string>>(NONE)
  const [spoken, say] = useState('')
  const { tree, name } = history.present
  const drawn = useRef<Row[]>([])
  const [finding, find] = useState('')
  const rows = useMemo(() => {
    drawn.current = finding
      ? found(flatten(tree, NONE, drawn.current), finding, languages)
      : flatten(tree, folded, drawn.current)
    return drawn.current
  }, [tree, folded, finding, languages])
  const choose = useCallback((next: Focus | null) => {
    dispatch({ type: 'rested' })
    setFocus(next)
    setMany(NONE)
  }, [])
  const chooseFirst = useCallback(() => {
    const first = drawn.current[0]
    if (first) choose({ id: first.item.id, typing: false })
  }, [choose])
  const chooseMany = useCallback((ids: Iterable<string>, next: Focus) => {
    setFocus(next)
    setMany(new Set([...ids, next.id]))
  }, [])
  const edit = useCallback((next: Tree, goal?: Focus | null, run?: string) => {
    dispatch({ type: 'edited', tree: next, run, at: performance.now() })
    if (goal !== undefined) setFocus(goal)
  }, [])
  const newest = useRef(tree)
  newest.current = tree
  const now = useCallback(() => newest.current, [])
  const fold = useCallback(
    (id: string, closed: boolean) =>
      setFolded((before) => {
        const after = new Set(before)
        if (closed) after.add(id)
        else after.delete(id)
        return after
      }),
    [],
  )
  const foldTo = useCallback(
    (level: number | null) => setFolded(level === null ? NONE : foldedAt(tree, level)),
    [tree],
  )
  const reveal = useCallback(
    (id: string) => {
      const above = pathTo(tree, id).slice(1)
      setFolded((before) =>
        above.some((one) => before.has(one))
          ? new Set([...before].filter((one) => !above.includes(one)))
          : before,
      )
      find('')
      choose({ id, typing: false })
    },
    [tree, choose],
  )
  const rename = useCallback(
    (next: string) => dispatch({ type: 'edited', name: next, run: 'name', at: performance.now() }),
    [],
  )
  const put = useCallback((state: State) => {
    dispatch({ type: 'edited', ...state })
    setFocus(null)
  }, [])
  const bring = useCallback((before: State, after: State) => {
    const edits = editsBetween(before.tree, after.tree)
    const next = brought(newest.current, edits)
    const theirs = after.name === before.name ? undefined : after.name
    // At once: the next key press edits the tree that is drawn.
    flushSync(() => dispatch({ type: 'brought', edits, tree: next, name: theirs }))
    return next
  }, [])
  const undo = useCallback(() => dispatch({ type: 'undone' }), [])
  const redo = useCallback(() => dispatch({ type: 'redone' }), [])
  const chosen = useMemo(() => (many.size > 0 ? many : focus ? new Set([focus.id]) : NONE), [many, focus])
  // The same object until something of it changes: what follows it is drawn again only then.
  return useMemo(
    () => ({
      tree,
      name,
      history,
      rows,
      focus,
      chosen,
      folded,
      finding,
      canUndo: history.past.length > 0,
      canRedo: history.future.length > 0,
      spoken,
      edit,
      now,
      choose,
      chooseFirst,
      chooseMany,
      reveal,
      find,
      fold,
      foldTo,
      undo,
      redo,
      rename,
      put,
      bring,
      say,
    }),
    [tree, name, history, rows, focus, chosen, folded, finding, spoken, reveal, foldTo],
  )
}
