import { type KeyboardEvent, useCallback, useReducer } from 'react'

export interface Steps<T> {
  value: T
  set: (next: T) => void
  undo: () => void
  redo: () => void
  canUndo: boolean
  canRedo: boolean
  /** Ctrl+Z and its way back, for what the steps are made on. */
  onKeyDown: (event: KeyboardEvent) => void
}

interface State<T> {
  past: readonly T[]
  /** Absent while nothing was changed: what it began with may still be on its way. */
  present: T | undefined
  future: readonly T[]
  at: number
}

type Action<T> = { type: 'set'; next: T; from: T; at: number } | { type: 'undo' } | { type: 'redo' }

/** Changes that follow each other so fast are one step. */
const JOINED_MS = 600
const LIMIT = 200

/** A value with a way back, step by step. */
export function useSteps<T>(start: T): Steps<T> {
  const [state, dispatch] = useReducer(reduce<T>, { past: [], present: undefined, future: [], at: 0 })
  const value = state.present ?? start
  const set = useCallback(
    (next: T) => dispatch({ type: 'set', next, from: value, at: performance.now() }),
    [value],
  )
  const undo = useCallback(() => dispatch({ type: 'undo' }), [])
  const redo = useCallback(() => dispatch({ type: 'redo' }), [])
  return {
    value,
    set,
    undo,
    redo,
    canUndo: state.past.length > 0,
    canRedo: state.future.length > 0,
    onKeyDown: (event) => {
      if (!(event.ctrlKey || event.metaKey) || event.altKey) return
      const key = event.key.toLowerCase()
      if (key !== 'z' && key !== 'y') return
      event.preventDefault()
      if (key === 'y' || event.shiftKey) redo()
      else undo()
    },
  }
}

function reduce<T>(state: State<T>, action: Action<T>): State<T> {
  const { past, present, future } = state
  switch (action.type) {
    case 'set': {
      const joins = present !== undefined && past.length > 0 && action.at - state.at < JOINED_MS
      return {
        past: joins ? past : [...past, action.from].slice(-LIMIT),
        present: action.next,
        future: [],
        at: action.at,
      }
    }
    case 'undo': {
      if (past.length === 0 || present === undefined) return state
      return { past: past.slice(0, -1), present: past.at(-1), future: [present, ...future], at: 0 }
    }
    case 'redo': {
      if (future.length === 0 || present === undefined) return state
      return { past: [...past, present], present: future[0], future: future.slice(1), at: 0 }
    }
  }
}
