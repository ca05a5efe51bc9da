/** Undo and redo: states of the menu, with runs of typing in one place kept as one step. */
import { brought, type Edits } from './brought'
import { childrenOf, type Item, type Tree, withChildren } from './tree'

export interface State {
  name: string
  tree: Tree
}

export interface History {
  past: readonly State[]
  present: State
  future: readonly State[]
  /** What the newest step was; a step of the same run joins it. */
  run: string | null
  /** When it was, in milliseconds: after a pause, what is typed is a step of its own. */
  at?: number
}

export type HistoryAction =
  /** What is not given stays as it is. */
  | { type: 'edited'; tree?: Tree; name?: string; run?: string; at?: number }
  | { type: 'undone' }
  | { type: 'redone' }
  /** The place that was typed in was left. */
  | { type: 'rested' }
  /** Somebody else's edits came in, and their name for the menu if they gave it one; `tree` is what one sees then. */
  | { type: 'brought'; edits: Edits; tree: Tree; name?: string }

const LIMIT = 500
const PAUSE_MS = 1_500

export const begin = (present: State): History => ({ past: [], present, future: [], run: null })

export function reduce(history: History, action: HistoryAction): History {
  switch (action.type) {
    case 'edited': {
      const { tree, name } = history.present
      const next = { name: action.name ?? name, tree: action.tree ?? tree }
      if (next.tree === tree && next.name === name) return history
      const run = action.run ?? null
      const paused = (action.at ?? 0) - (history.at ?? 0) > PAUSE_MS
      const joins = run !== null && run === history.run && !paused
      const past = joins ? history.past : [...history.past, history.present].slice(-LIMIT)
      return { past, present: next, future: [], run, at: action.at }
    }
    case 'undone': {
      const before = history.past.at(-1)
      if (!before) return history
      return {
        past: history.past.slice(0, -1),
        present: before,
        future: [history.present, ...history.future],
        run: null,
      }
    }
    case 'redone': {
      const [after, ...future] = history.future
      if (!after) return history
      return { past: [...history.past, history.present], present: after, future, run: null }
    }
    case 'rested':
      return history.run === null ? history : { ...history, run: null }
    case 'brought': {
      const bring = (state: State): State => ({
        name: action.name ?? state.name,
        tree: brought(state.tree, action.edits),
      })
      return {
        past: history.past.map(bring),
        present: { name: action.name ?? history.present.name, tree: action.tree },
        future: history.future.map(bring),
        run: null,
      }
    }
  }
}

/**
 * The line that a step is about: one that came to where it stands, else one whose place among its own changed, else one
 * that is itself another, else the one before a line that went. Null where nothing changed, or nothing is left.
 */
export function changedAt(before: Tree, after: Tree): string | null {
  const [came, moved, changed, beside]: [string[], string[], string[], string[]] = [[], [], [], []]
  const visit = (was: Tree, is: Tree, parentId: string | null) => {
    if (was === is) return
    const earlier = new Map(was.map((item) => [item.id, item]))
    const kept = is.filter((item) => earlier.has(item.id))
    const ids = new Set(kept.map((item) => item.id))
    moved.push(...outOfOrder(was.filter((item) => ids.has(item.id)).map(idOf), kept.map(idOf)))
    was.forEach((item, at) => {
      if (ids.has(item.id)) return
      const above = was.slice(0, at).findLast((one) => ids.has(one.id))?.id ?? parentId ?? is[0]?.id
      if (above) beside.push(above)
    })
    for (const item of is) {
      const old = earlier.get(item.id)
      if (!old) came.push(item.id)
      if (!old || old === item) continue
      if (JSON.stringify(withChildren(old, [])) !== JSON.stringify(withChildren(item, [])))
        changed.push(item.id)
      visit(childrenOf(old), childrenOf(item), item.id)
    }
  }
  visit(before, after, null)
  return came[0] ?? moved[0] ?? changed[0] ?? beside[0] ?? null
}

const idOf = (item: Item): string => item.id

/** Of the same ids in two orders, the one that moved: it went down, if the rest is in order without it, or else up. */
function outOfOrder(was: readonly string[], is: readonly string[]): string[] {
  const at = is.findIndex((id, place) => id !== was[place])
  const [down, up] = [was[at], is[at]]
  if (!down || !up) return []
  const without = (ids: readonly string[]) => ids.filter((id) => id !== down).join(' ')
  return [without(was) === without(is) ? down : up]
}
