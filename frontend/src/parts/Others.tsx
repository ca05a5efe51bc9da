import type { Somebody } from '../api/there'

/** Who else is here just now, each once. */
export function Others({ people }: { people: readonly Somebody[] }) {
  const names = [...new Set(people.map((one) => one.name))]
  if (names.length === 0) return null
  return (
    <span role="status" aria-label="Also here" className="text-small text-dusk">
      <span aria-hidden="true">● </span>
      {names.join(', ')} {names.length === 1 ? 'is' : 'are'} here too
    </span>
  )
}
