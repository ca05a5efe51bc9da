import { type ReactNode, useId } from 'react'

/** What is asked, over the line on which it is answered. */
export function Asked({ says, children }: { says: string; children: (id: string) => ReactNode }) {
  const id = useId()
  return (
    <div>
      <label htmlFor={id} className="mb-1 block text-small text-ink-2">
        {says}
      </label>
      {children(id)}
    </div>
  )
}
