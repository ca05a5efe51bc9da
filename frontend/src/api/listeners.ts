/** Who wants to be told that something outside React changed. */
export interface Listeners {
  tell: () => void
  /** Returns how to stop. */
  subscribe: (listener: () => void) => () => void
}

export function listeners(): Listeners {
  const all = new Set<() => void>()
  return {
    tell: () => {
      for (const one of all) one()
    },
    subscribe: (listener) => {
      all.add(listener)
      return () => all.delete(listener)
    },
  }
}
