import { useEffect, useRef, useSyncExternalStore } from 'react'
import { listeners } from '../api/listeners'

/** What can be done in the view that is open, by the name under which it is found. */
const acts = new Map<string, () => void>()
const { tell, subscribe } = listeners()
let names: readonly string[] = []

function changed(): void {
  names = [...acts.keys()].sort()
  tell()
}

/** Offers something to be done by name while the view that does it is drawn; null: not now. */
export function useAct(name: string, act: (() => void) | null): void {
  const latest = useRef(act)
  latest.current = act
  const offered = act !== null
  useEffect(() => {
    if (!offered) return
    const run = () => latest.current?.()
    acts.set(name, run)
    changed()
    return () => {
      if (acts.get(name) === run) acts.delete(name)
      changed()
    }
  }, [name, offered])
}

export const useActNames = (): readonly string[] => useSyncExternalStore(subscribe, () => names)

export const doAct = (name: string): void => acts.get(name)?.()
