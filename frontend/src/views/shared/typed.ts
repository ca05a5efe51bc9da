/** What is typed of a shared menu and not kept as a version yet: it stays in this browser until it is. */
import { useState } from 'react'

export interface Typed {
  name: string
  outline: string
  /** The version that it set out from; 0 for a new one. */
  version: number
}

const keyOf = (menu: string) => `shared menu ${menu}`

function kept(menu: string): Typed | null {
  try {
    return JSON.parse(localStorage.getItem(keyOf(menu)) ?? 'null')
  } catch {
    return null
  }
}

/** What is typed; null where that is nothing else than what is kept. */
export function useTyped(menu: string): [Typed | null, (typed: Typed | null) => void] {
  const [typed, setTyped] = useState(() => kept(menu))
  return [
    typed,
    (next) => {
      setTyped(next)
      try {
        if (next) localStorage.setItem(keyOf(menu), JSON.stringify(next))
        else localStorage.removeItem(keyOf(menu))
      } catch {
        // A browser that keeps nothing still shows it.
      }
    },
  ]
}
