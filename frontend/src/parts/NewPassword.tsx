import { useId } from 'react'

export const LINE =
  'w-full border-b-[1.5px] border-ink-3 bg-transparent px-0.5 py-0.5 text-ink focus:border-dusk'

/** A field for a new password, which says what one must be. */
export function NewPassword({ value, onChange }: { value: string; onChange: (words: string) => void }) {
  const [field, says] = [useId(), useId()]
  return (
    <div>
      <label htmlFor={field} className="block text-[13px] text-ink-2">
        New password
      </label>
      <input
        id={field}
        type="password"
        autoComplete="new-password"
        aria-describedby={says}
        value={value}
        onChange={(event) => onChange(event.target.value)}
        className={LINE}
      />
      <p id={says} className="text-[12px] text-ink-2">
        At least 12 signs, and hard to guess: a few words in a row are.
      </p>
    </div>
  )
}
