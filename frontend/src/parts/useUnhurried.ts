import { startTransition, useEffect, useState } from 'react'

/** The value a moment later; where somebody is at it in a hurry, only once they pause. */
export function useUnhurried<T>(value: T, hurried: () => boolean, pauseMs: number): T {
  const [shown, setShown] = useState(value)
  useEffect(() => {
    const show = () => startTransition(() => setShown(value))
    if (!hurried()) return show()
    const timer = window.setTimeout(show, pauseMs)
    return () => window.clearTimeout(timer)
  }, [value, hurried, pauseMs])
  return shown
}
