import { useEffect, useState } from 'react'

/** The value once it has stayed the same for a while: what costs a server or a screen much waits for a pause. */
export function useSettled<T>(value: T, forMs: number): T {
  const [settled, setSettled] = useState(value)
  useEffect(() => {
    const timer = window.setTimeout(() => setSettled(value), forMs)
    return () => window.clearTimeout(timer)
  }, [value, forMs])
  return settled
}
