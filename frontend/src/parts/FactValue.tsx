import type { Schemas } from '../api/client'
import { Choice } from './Choice'
import { Input } from './Input'
import { Tick } from './Tick'

interface Props {
  fact: Schemas['FactChoice']
  value: unknown
  disabled?: boolean
  /** undefined: the visitor does not supply it. */
  onChange: (value: unknown) => void
}

/** A fact's value by hand, as its type asks for it. */
export function FactValue({ fact, value, disabled, onChange }: Props) {
  if (fact.type === 'flag' || fact.type === 'choice') {
    const options = fact.type === 'flag' ? ['true', 'false'] : fact.values
    return (
      <Choice
        aria-label={fact.name}
        disabled={disabled}
        value={value === undefined || value === null ? '' : String(value)}
        onChoose={(value) => {
          const chosen = value
          onChange(chosen === '' ? undefined : fact.type === 'flag' ? chosen === 'true' : chosen)
        }}
      >
        <option value="">not supplied</option>
        {options.map((one) => (
          <option key={one}>{one}</option>
        ))}
      </Choice>
    )
  }
  if (fact.type === 'tags') {
    const chosen = Array.isArray(value) ? (value as string[]) : null
    return (
      <fieldset className="flex flex-wrap gap-x-3" disabled={disabled}>
        <legend className="sr-only">{fact.name}</legend>
        <label className="flex items-baseline gap-1 text-ink-2">
          <input
            type="checkbox"
            checked={chosen !== null}
            onChange={() => onChange(chosen === null ? [] : undefined)}
          />
          supplied:
        </label>
        {fact.values.map((one) => (
          <Tick
            key={one}
            checked={chosen?.includes(one) ?? false}
            onTick={() =>
              onChange(
                fact.values.filter((other) =>
                  other === one ? !chosen?.includes(one) : chosen?.includes(other),
                ),
              )
            }
          >
            {one}
          </Tick>
        ))}
      </fieldset>
    )
  }
  return (
    <Input
      aria-label={fact.name}
      disabled={disabled}
      type={fact.type === 'number' ? 'number' : 'text'}
      placeholder="not supplied"
      value={value === undefined || value === null ? '' : String(value)}
      onChange={(event) => {
        const typed = event.target.value
        onChange(typed === '' ? undefined : fact.type === 'number' ? Number(typed) : typed)
      }}
      className="w-[170px] w-full"
    />
  )
}
