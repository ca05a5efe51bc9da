import type { ReactNode } from 'react'

/** In place of nothing: what would stand here, and the next step to it. */
export function Empty({ says, children }: { says: string; children?: ReactNode }) {
  return (
    <div className="flex flex-wrap items-baseline gap-3 border-y border-hair py-3 text-ink-2">
      <p>{says}</p>
      {children}
    </div>
  )
}
