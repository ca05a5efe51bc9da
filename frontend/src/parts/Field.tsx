import { type ReactNode, useId } from 'react'

/** A line of a form: what is asked, and the field that answers it. */
export function Field({ says, children }: { says: string; children: (id: string) => ReactNode }) {
  const id = useId()
  return (
    <div className="flex min-h-[26px] items-center justify-between gap-3 border-t border-hair">
      <label htmlFor={id} className="text-ink-2">
        {says}
      </label>
      {children(id)}
    </div>
  )
}
