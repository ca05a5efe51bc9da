/**
 * What is being typed and is not part of anything yet, such as a rule of which half is there: it counts as unsaved, and is
 * put where it belongs before one leaves.
 */
import { useEffect, useRef, useSyncExternalStore } from 'react'
import { listeners } from '../api/listeners'

const open = new Set<() => void>()
const { tell, subscribe } = listeners()

/** While `unfinished`, `finish` puts what is typed where it belongs; it is called when one leaves, too. */
export function useUnfinished(unfinished: boolean, finish: () => void): void {
  const newest = useRef(finish)
  newest.current = finish
  useEffect(() => {
    if (!unfinished) return
    const end = () => newest.current()
    open.add(end)
    tell()
    return () => {
      open.delete(end)
      tell()
    }
  }, [unfinished])
}

export const useAnythingUnfinished = (): boolean => useSyncExternalStore(subscribe, () => open.size > 0)

/** Puts all of it where it belongs. */
export function finishAll(): void {
  for (const end of [...open]) end()
}
