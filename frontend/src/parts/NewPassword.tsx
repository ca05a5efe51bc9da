import { useId } from 'react'
import { Asked } from './Asked'
import { Input } from './Input'

/** A field for a new password, which says what one must be. */
export function NewPassword({ value, onChange }: { value: string; onChange: (words: string) => void }) {
  const says = useId()
  return (
    <div>
      <Asked says="New password">
        {(id) => (
          <Input
            id={id}
            type="password"
            autoComplete="new-password"
            aria-describedby={says}
            value={value}
            onChange={(event) => onChange(event.target.value)}
            className="w-full"
          />
        )}
      </Asked>
      <p id={says} className="text-note text-ink-2">
        At least 12 signs, and hard to guess: a few words in a row are.
      </p>
    </div>
  )
}
