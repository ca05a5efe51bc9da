import { startTransition, useEffect, useState } from 'react'

/** False until the browser has painted what is there without it: for what takes longer to make than a first look may wait. */
export function useAfterPaint(): boolean {
  const [after, setAfter] = useState(false)
  useEffect(() => {
    let timer = 0
    // Called just before a paint; what it puts off runs after it.
    const frame = requestAnimationFrame(() => {
      timer = window.setTimeout(() => startTransition(() => setAfter(true)))
    })
    return () => {
      cancelAnimationFrame(frame)
      window.clearTimeout(timer)
    }
  }, [])
  return after
}
