import { Button } from '../../parts/Button'
import { Choice } from '../../parts/Choice'
import { Input } from '../../parts/Input'
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

/** A fact: its name, its type, and the values that it may have. */
export function FactLine({ fact, onChange }: { fact: FactRow; onChange: (fact: FactRow | null) => void }) {
  const set = (change: Partial<FactRow>) => onChange({ ...fact, ...change })
  const listed = fact.type === 'choice' || fact.type === 'tags'
  return (
    <div className="flex flex-wrap items-baseline gap-x-2 gap-y-1 border-t border-hair py-1">
      <Input
        aria-label="Name of the fact"
        value={fact.name}
        onChange={(event) => set({ name: event.target.value })}
        className="mono w-[130px]"
      />
      <Choice
        aria-label={`Type of ${fact.name}`}
        value={fact.type}
        onChoose={(value) => {
          const type = TYPES.find((one) => one === value) ?? 'flag'
          const needs = (type === 'choice' || type === 'tags') && fact.values.length === 0
          set({ type, values: needs ? [{ was: null, value: 'first' }] : fact.values })
        }}
      >
        {TYPES.map((one) => (
          <option key={one} value={one}>
            {SAYS[one]}
          </option>
        ))}
      </Choice>
      {listed && (
        <>
          {fact.values.map((one, at) => (
            <span key={at} className="flex items-baseline">
              <Input
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
            <Input
              type="number"
              value={fact[one] ?? ''}
              onChange={(event) =>
                set({ [one]: event.target.value === '' ? null : Number(event.target.value) })
              }
              className="w-[64px]"
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
