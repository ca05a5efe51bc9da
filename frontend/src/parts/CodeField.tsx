import { useId } from 'react'
import { Input } from './Input'

/** For what an authenticator shows; it is written at once when it is asked for. */
export function CodeField({ says = 'Code of your authenticator' }: { says?: string }) {
  const id = useId()
  return (
    <>
      <label htmlFor={id} className="mt-4 block text-ink-2">
        {says}
      </label>
      <Input
        autoFocus
        id={id}
        name="code"
        inputMode="numeric"
        autoComplete="one-time-code"
        required
        className="mono w-full"
      />
    </>
  )
}
