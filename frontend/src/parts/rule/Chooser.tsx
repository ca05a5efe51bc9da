import type { Schemas } from '../../api/client'
import { Button } from '../Button'
import { Choice } from '../Choice'
import { Input } from '../Input'
import type { GroupPart, Part, TestPart } from './written'

type Known = readonly Schemas['FactChoice'][]

interface Props {
  part: Part
  known: Known
  disabled: boolean
  onChange: (part: Part | null) => void
  /** Whether it is a group within a group. */
  inside?: boolean
}

const OPS: Record<string, [string, string]> = {
  holds: ['holds', 'does not hold'],
  is: ['is', 'is not'],
  in: ['is one of', 'is none of'],
  has: ['has', 'has not'],
  'has any': ['has any of', 'has none of'],
  under: ['is or is below', 'is not below'],
  like: ['is like', 'is not like'],
  '<': ['<', 'not <'],
  '<=': ['<=', 'not <='],
  '>': ['>', 'not >'],
  '>=': ['>=', 'not >='],
}

/** A rule put together by choosing: tests, one below the other, on a rail that says whether all or any must hold. */
export function Chooser({ part, known, disabled, onChange, inside = false }: Props) {
  if (part.kind === 'const') {
    return (
      <p className="flex items-baseline gap-2">
        {part.value ? 'everyone' : 'nobody'}
        {!disabled && <Add known={known} onAdd={onChange} says="Only …" />}
        {inside && !disabled && <Away onAway={() => onChange(null)} says="always" />}
      </p>
    )
  }
  if (part.kind === 'test') {
    const line = <TestLine part={part} known={known} disabled={disabled} onChange={onChange} />
    if (inside || disabled) return line
    return (
      <div>
        {line}
        <span className="mt-1 flex gap-2">
          <Add
            known={known}
            says="and …"
            onAdd={(one) => onChange({ kind: 'all', parts: [part, one] } as GroupPart)}
          />
          <Add
            known={known}
            says="or …"
            onAdd={(one) => onChange({ kind: 'any', parts: [part, one] } as GroupPart)}
          />
        </span>
      </div>
    )
  }
  const set = (at: number, next: Part | null) => {
    const parts = part.parts.flatMap((one, index) => (index !== at ? [one as Part] : next ? [next] : []))
    onChange(
      parts.length === 1 && !part.no
        ? (parts[0] ?? null)
        : parts.length
          ? ({ ...part, parts } as GroupPart)
          : null,
    )
  }
  return (
    <fieldset className="border-l-[3px] border-wood pl-2" disabled={disabled}>
      <legend className="sr-only">a group of tests</legend>
      <span className="flex items-baseline gap-1 text-small text-ink-2">
        <Choice
          aria-label="How the tests go together"
          className="max-w-[140px]"
          value={`${part.no ? 'not ' : ''}${part.kind}`}
          onChoose={(value) => {
            const no = value.startsWith('not ')
            onChange({ ...part, kind: value.replace('not ', '') as 'all' | 'any', no })
          }}
        >
          <option value="all">all of these hold</option>
          <option value="any">any of these holds</option>
          <option value="not all">not all of these hold</option>
          <option value="not any">none of these holds</option>
        </Choice>
        {inside && !disabled && <Away onAway={() => onChange(null)} says="the group" />}
      </span>
      {part.parts.map((one, at) => (
        <div key={at} className="mt-0.5">
          <Chooser
            part={one as Part}
            known={known}
            disabled={disabled}
            inside
            onChange={(next) => set(at, next)}
          />
        </div>
      ))}
      {!disabled && (
        <span className="mt-1 flex gap-2">
          <Add
            known={known}
            says="and a test …"
            onAdd={(one) => onChange({ ...part, parts: [...part.parts, one] } as GroupPart)}
          />
          <Add
            known={known}
            says="and a group …"
            onAdd={(one) =>
              onChange({
                ...part,
                parts: [
                  ...part.parts,
                  { kind: part.kind === 'all' ? 'any' : 'all', no: false, parts: [one, one] },
                ],
              } as GroupPart)
            }
          />
        </span>
      )}
    </fieldset>
  )
}

/** The first test of a fact: one that means something at once. */
export function testOf(fact: Schemas['FactChoice']): TestPart {
  const op = (fact.ops[0] ?? 'holds') as TestPart['op']
  const value =
    fact.values[0] ?? { number: fact.name === 'month' ? 4 : 1, path: '/', text: 'word' }[fact.type]
  return {
    kind: 'test',
    fact: fact.name,
    op,
    values: op === 'holds' || value === undefined ? [] : [value],
    no: false,
  }
}

function Add({ known, says, onAdd }: { known: Known; says: string; onAdd: (part: TestPart) => void }) {
  return (
    <Choice
      aria-label={says}
      value=""
      className="max-w-[140px] text-small text-ink-2"
      onChoose={(value) => {
        const fact = known.find((one) => one.name === value)
        if (fact) onAdd(testOf(fact))
      }}
    >
      <option value="">{says}</option>
      {known
        .filter((one) => one.type !== 'tags' || one.values.length > 0)
        .map((one) => (
          <option key={one.name} value={one.name}>
            {one.type === 'rule' ? `${one.name} (a rule)` : one.name}
          </option>
        ))}
    </Choice>
  )
}

function Away({ says, onAway }: { says: string; onAway: () => void }) {
  return (
    <Button small tone="quiet" aria-label={`Take away: ${says}`} title="take away" onClick={onAway}>
      ×
    </Button>
  )
}

interface LineProps {
  part: TestPart
  known: Known
  disabled: boolean
  onChange: (part: Part | null) => void
}

function TestLine({ part, known, disabled, onChange }: LineProps) {
  const fact = known.find((one) => one.name === part.fact)
  const ops = fact?.ops ?? [part.op]
  const setOp = (chosen: string) => {
    const no = chosen.startsWith('not ')
    const op = chosen.replace('not ', '') as TestPart['op']
    const many = op === 'in' || op === 'has any'
    const values = op === 'holds' ? [] : many ? part.values : part.values.slice(0, 1)
    const next = { ...part, op, no, values }
    onChange(op !== 'holds' && next.values.length === 0 && fact ? { ...testOf(fact), op, no } : next)
  }
  return (
    <span className="flex flex-wrap items-baseline gap-x-2 gap-y-0.5">
      <code className="font-semibold">{part.fact}</code>
      {ops.length > 0 && (
        <Choice
          aria-label={`What is asked of ${part.fact}`}
          className="max-w-[140px]"
          disabled={disabled}
          value={`${part.no ? 'not ' : ''}${part.op}`}
          onChoose={(value) => setOp(value)}
        >
          {ops
            .filter((op) => fact?.type !== 'flag' || op === 'holds')
            .flatMap((op) => [
              <option key={op} value={op}>
                {OPS[op]?.[0] ?? op}
              </option>,
              <option key={`not ${op}`} value={`not ${op}`}>
                {OPS[op]?.[1] ?? `not ${op}`}
              </option>,
            ])}
        </Choice>
      )}
      <Values part={part} fact={fact} disabled={disabled} onChange={onChange} />
      {!disabled && <Away onAway={() => onChange(null)} says={`the test of ${part.fact}`} />}
    </span>
  )
}

function Values({
  part,
  fact,
  disabled,
  onChange,
}: Omit<LineProps, 'known'> & { fact: Schemas['FactChoice'] | undefined }) {
  if (part.op === 'holds') return null
  const label = `Value of ${part.fact}`
  if (fact && fact.values.length > 0) {
    if (part.op === 'in' || part.op === 'has any') {
      return (
        <fieldset className="flex flex-wrap gap-x-2" disabled={disabled}>
          <legend className="sr-only">{label}</legend>
          {fact.values.map((one) => (
            <label key={one} className="flex items-baseline gap-1">
              <input
                type="checkbox"
                checked={part.values.includes(one)}
                onChange={(event) => {
                  const values = fact.values.filter((other) =>
                    other === one ? event.target.checked : part.values.includes(other),
                  )
                  if (values.length > 0) onChange({ ...part, values })
                }}
              />
              {one}
            </label>
          ))}
        </fieldset>
      )
    }
    return (
      <Choice
        aria-label={label}
        className="max-w-[140px]"
        disabled={disabled}
        value={String(part.values[0] ?? '')}
        onChoose={(value) => onChange({ ...part, values: [value] })}
      >
        {fact.values.map((one) => (
          <option key={one}>{one}</option>
        ))}
      </Choice>
    )
  }
  const number = fact?.type === 'number'
  return (
    <Input
      key={part.values.join(' ')}
      aria-label={label}
      disabled={disabled}
      type={number && part.op !== 'in' ? 'number' : 'text'}
      defaultValue={part.values.join(', ')}
      className="mono w-[110px]"
      onBlur={(event) => {
        const typed = part.op === 'in' ? event.target.value.split(/\s*,\s*/) : [event.target.value]
        const values = typed.filter((one) => one !== '').map((one) => (number ? Number(one) : one))
        if (values.length > 0 && values.join() !== part.values.join()) onChange({ ...part, values })
      }}
    />
  )
}
