import { useEffect, useState } from 'react'

const NOTICED_MS = 300

/** That something is on its way, said where it takes longer than one notices. */
export function Waiting({ says = 'Reading …' }: { says?: string }) {
  const [late, setLate] = useState(false)
  useEffect(() => {
    const timer = window.setTimeout(() => setLate(true), NOTICED_MS)
    return () => window.clearTimeout(timer)
  }, [])
  return (
    <p role="status" className="min-h-6 py-3 text-ink-2">
      {late && says}
    </p>
  )
}
