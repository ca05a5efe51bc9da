import { Popover } from 'radix-ui'
import { Fragment, useState } from 'react'
import type { Schemas } from '../../api/client'
import { Button } from '../Button'
import { Choice } from '../Choice'
import { Input } from '../Input'
import { Menu, MenuAct } from '../Menu'
import { Popup } from '../Popup'
import type { GroupPart, Part, TestPart } from './written'

type Known = readonly Schemas['FactChoice'][]

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

interface Props {
  part: Part
  known: Known
  disabled: boolean
  onChange: (part: Part | null) => void
}

/** A rule as the sentence that it is: every part of it is a word to press, and to exchange for another. */
export function Chooser({ part, known, disabled, onChange }: Props) {
  const [open, setOpen] = useState<string | null>(null)
  return (
    <p className="flex flex-wrap items-baseline gap-x-1.5 gap-y-1">
      <Piece
        part={part}
        at=""
        known={known}
        disabled={disabled}
        onChange={onChange}
        open={open}
        onOpen={setOpen}
      />
    </p>
  )
}

interface PieceProps extends Props {
  /** Where it stands in the rule: the numbers of the parts that lead to it. */
  at: string
  /** The part whose word is open. */
  open: string | null
  onOpen: (at: string | null) => void
}

function Piece(props: PieceProps) {
  const { part, at, known, disabled, onChange, onOpen } = props
  const top = at === ''
  if (part.kind === 'const')
    return (
      <>
        {part.value ? 'everyone' : 'nobody'}
        {!disabled && (
          <Add
            known={known}
            says="Only …"
            onAdd={(one) => {
              onChange(one)
              onOpen(at)
            }}
          />
        )}
      </>
    )
  /** This part with another beside it, whose word opens. */
  const beside = (kind: 'all' | 'any') => (one: TestPart) => {
    const joins = part.kind === kind && !part.no
    const parts = joins ? [...part.parts, one] : [part, one]
    onChange({ kind, no: false, parts } as GroupPart)
    onOpen(`${at}.${parts.length - 1}`)
  }
  if (part.kind === 'test')
    return (
      <>
        {top && 'visitors of whom'}
        <Phrase {...props} part={part} onBeside={beside} />
        {top && !disabled && <Beside known={known} onBeside={beside} />}
      </>
    )
  const set = (place: number, next: Part | null) => {
    const parts = part.parts.flatMap((one, index) => (index !== place ? [one as Part] : next ? [next] : []))
    onChange(parts.length === 1 && !part.no ? (parts[0] ?? null) : parts.length ? { ...part, parts } : null)
  }
  return (
    <>
      {top && 'visitors of whom'}
      <Choice
        aria-label={top ? 'Whether it holds' : 'Whether what is in brackets holds'}
        className="text-small"
        disabled={disabled}
        value={part.no ? 'not' : ''}
        onChoose={(value) => onChange({ ...part, no: value === 'not' })}
        options={[
          ['', 'it holds that'],
          ['not', 'it does not hold that'],
        ]}
      />
      {!top && <span aria-hidden="true">(</span>}
      {part.parts.map((one, place) => (
        <Fragment key={place}>
          {place > 0 && (
            <Choice
              aria-label={place === 1 ? 'How the tests go together' : `How they go together, ${place}`}
              disabled={disabled}
              value={part.kind}
              onChoose={(kind) => onChange({ ...part, kind: kind as 'all' | 'any' })}
              options={[
                ['all', 'and'],
                ['any', 'or'],
              ]}
            />
          )}
          <Piece {...props} part={one as Part} at={`${at}.${place}`} onChange={(next) => set(place, next)} />
        </Fragment>
      ))}
      {!top && <span aria-hidden="true">)</span>}
      {top && !disabled && <Beside known={known} onBeside={beside} />}
    </>
  )
}

type Besides = (kind: 'all' | 'any') => (one: TestPart) => void

function Beside({ known, onBeside }: { known: Known; onBeside: Besides }) {
  return (
    <>
      <Add known={known} says="and …" onAdd={onBeside('all')} />
      <Add known={known} says="or …" onAdd={onBeside('any')} />
    </>
  )
}

/** What is asked of one fact, as words; pressed, they can be changed, taken away, or joined with another. */
function Phrase(props: PieceProps & { part: TestPart; onBeside: Besides }) {
  const { part, at, known, disabled, open, onOpen, onChange, onBeside } = props
  const fact = known.find((one) => one.name === part.fact)
  const asked = OPS[part.op]?.[part.no ? 1 : 0] ?? part.op
  return (
    <Popover.Root open={open === at} onOpenChange={(opens) => onOpen(opens ? at : null)}>
      <Popover.Trigger asChild>
        <button type="button" disabled={disabled} className="choice text-left">
          <code>{part.fact}</code> {asked} {part.values.join(', ')}
        </button>
      </Popover.Trigger>
      <Popup label={`What is asked of ${part.fact}`} align="start" className="max-w-[400px] p-3">
        <TestLine part={part} fact={fact} disabled={disabled} onChange={onChange} />
        <span className="mt-3 flex flex-wrap items-baseline gap-3 border-t border-hair pt-2">
          {at !== '' && <Beside known={known} onBeside={onBeside} />}
          <Button
            small
            aria-label={`Take away: the test of ${part.fact}`}
            onClick={() => {
              onOpen(null)
              onChange(null)
            }}
          >
            Take it away
          </Button>
        </span>
      </Popup>
    </Popover.Root>
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
    <Menu
      align="start"
      button={
        <button type="button" className="choice text-small text-ink-2">
          {says}
        </button>
      }
    >
      {known
        .filter((one) => one.type !== 'tags' || one.values.length > 0)
        .map((one) => (
          <MenuAct key={one.name} onAct={() => onAdd(testOf(one))}>
            {one.type === 'rule' ? `${one.name} (a rule)` : one.name}
          </MenuAct>
        ))}
    </Menu>
  )
}

interface LineProps {
  part: TestPart
  fact: Schemas['FactChoice'] | undefined
  disabled: boolean
  onChange: (part: Part | null) => void
}

function TestLine({ part, fact, disabled, onChange }: LineProps) {
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
    </span>
  )
}

function Values({ part, fact, disabled, onChange }: LineProps) {
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
  return (
    <Typed
      part={part}
      label={label}
      number={fact?.type === 'number'}
      disabled={disabled}
      onChange={onChange}
    />
  )
}

interface TypedProps {
  part: TestPart
  label: string
  number: boolean
  disabled: boolean
  onChange: (part: TestPart) => void
}

/** A value by hand, several with commas between them; each key that leaves a value is kept. */
function Typed({ part, label, number, disabled, onChange }: TypedProps) {
  const [text, setText] = useState(part.values.join(', '))
  const read = (words: string): (string | number)[] =>
    (part.op === 'in' ? words.split(/\s*,\s*/) : [words])
      .filter((one) => one.trim() !== '')
      .map((one) => (number ? Number(one) : one))
      .filter((one) => typeof one === 'string' || Number.isFinite(one))
  const kept = part.values.join()
  // What was taken back, or came from elsewhere, is shown; what is being typed stays as it is typed.
  const shown = read(text).join() === kept || read(text).length === 0 ? text : part.values.join(', ')
  return (
    <Input
      aria-label={label}
      disabled={disabled}
      type={number && part.op !== 'in' ? 'number' : 'text'}
      value={shown}
      className="mono w-[110px]"
      onChange={(event) => {
        setText(event.target.value)
        const values = read(event.target.value)
        if (values.length > 0 && values.join() !== kept) onChange({ ...part, values })
      }}
    />
  )
}
