import { type ReactNode, useId } from 'react'

export const LINE =
  'w-full border-b-[1.5px] border-ink-3 bg-transparent px-0.5 py-0.5 text-ink focus:border-dusk'

/** What is asked, over the line on which it is answered. */
export function Asked({ says, children }: { says: string; children: (id: string) => ReactNode }) {
  const id = useId()
  return (
    <div>
      <label htmlFor={id} className="mb-1 block text-[13px] text-ink-2">
        {says}
      </label>
      {children(id)}
    </div>
  )
}
