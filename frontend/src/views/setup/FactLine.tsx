import { Button } from '../../parts/Button'
import type { FactRow } from './known'

const TYPES = ['flag', 'choice', 'tags', 'number', 'path', 'text'] as const
const SAYS = {
  flag: 'yes or no',
  choice: 'one of',
  tags: 'any of',
  number: 'a number',
  path: 'an address',
  text: 'words',
} as const
const INPUT = 'border-b-[1.5px] border-hair bg-transparent'

/** A fact: its name, its type, and the values that it may have. */
export function FactLine({ fact, onChange }: { fact: FactRow; onChange: (fact: FactRow | null) => void }) {
  const set = (change: Partial<FactRow>) => onChange({ ...fact, ...change })
  const listed = fact.type === 'choice' || fact.type === 'tags'
  return (
    <div className="flex flex-wrap items-baseline gap-x-2 gap-y-1 border-t border-hair py-1">
      <input
        aria-label="Name of the fact"
        value={fact.name}
        onChange={(event) => set({ name: event.target.value })}
        className={`mono w-[130px] ${INPUT}`}
      />
      <select
        aria-label={`Type of ${fact.name}`}
        value={fact.type}
        onChange={(event) => {
          const type = TYPES.find((one) => one === event.target.value) ?? 'flag'
          const needs = (type === 'choice' || type === 'tags') && fact.values.length === 0
          set({ type, values: needs ? [{ was: null, value: 'first' }] : fact.values })
        }}
        className="chosen bg-transparent"
      >
        {TYPES.map((one) => (
          <option key={one} value={one}>
            {SAYS[one]}
          </option>
        ))}
      </select>
      {listed && (
        <>
          {fact.values.map((one, at) => (
            <span key={at} className="flex items-baseline">
              <input
                aria-label={`Value ${at + 1} of ${fact.name}`}
                value={one.value}
                size={Math.max(4, one.value.length)}
                onChange={(event) =>
                  set({
                    values: fact.values.map((other, index) =>
                      index === at ? { ...other, value: event.target.value } : other,
                    ),
                  })
                }
                className={INPUT}
              />
              <Button
                small
                tone="quiet"
                aria-label={`Take away the value ${one.value}`}
                onClick={() => set({ values: fact.values.filter((_, index) => index !== at) })}
              >
                ×
              </Button>
            </span>
          ))}
          <Button
            small
            aria-label={`Add a value to ${fact.name}`}
            onClick={() =>
              set({ values: [...fact.values, { was: null, value: `value ${fact.values.length + 1}` }] })
            }
          >
            +
          </Button>
        </>
      )}
      {fact.type === 'number' &&
        (['min', 'max'] as const).map((one) => (
          <label key={one} className="flex items-baseline gap-1 text-ink-2">
            {one === 'min' ? 'from' : 'to'}
            <input
              type="number"
              value={fact[one] ?? ''}
              onChange={(event) =>
                set({ [one]: event.target.value === '' ? null : Number(event.target.value) })
              }
              className={`w-[64px] ${INPUT}`}
            />
          </label>
        ))}
      <Button
        small
        tone="quiet"
        className="ml-auto"
        aria-label={`Take away ${fact.name}`}
        onClick={() => onChange(null)}
      >
        take away
      </Button>
    </div>
  )
}
