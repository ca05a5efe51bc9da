/** Undo and redo: states of the tree, with runs of typing in one line kept as one step. */
import type { Tree } from './tree'

export interface History {
  past: readonly Tree[]
  present: Tree
  future: readonly Tree[]
  /** What the newest step was; a step of the same run joins it. */
  run: string | null
}

export type HistoryAction =
  | { type: 'edited'; tree: Tree; run?: string }
  | { type: 'undone' }
  | { type: 'redone' }
  | { type: 'replaced'; tree: Tree }

const LIMIT = 500

export const begin = (tree: Tree): History => ({ past: [], present: tree, future: [], run: null })

export function reduce(history: History, action: HistoryAction): History {
  switch (action.type) {
    case 'edited': {
      if (action.tree === history.present) return history
      const run = action.run ?? null
      const joins = run !== null && run === history.run
      const past = joins ? history.past : [...history.past, history.present].slice(-LIMIT)
      return { past, present: action.tree, future: [], run }
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
    case 'replaced':
      // Somebody else's edits came in: they can be taken back like one's own.
      return {
        past: [...history.past, history.present].slice(-LIMIT),
        present: action.tree,
        future: [],
        run: null,
      }
  }
}
