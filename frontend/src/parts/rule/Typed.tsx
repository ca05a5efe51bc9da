import { useId, useLayoutEffect, useRef, useState } from 'react'
import type { Schemas } from '../../api/client'
import { completions } from './complete'

interface Props {
  label: string
  value: string
  problems: readonly Schemas['MarkOut'][]
  known: readonly Schemas['FactChoice'][]
  disabled: boolean
  onType: (text: string) => void
  /** The typing is over: the focus leaves. */
  onDone: () => void
}

const TEXT = 'mono block w-full px-1 py-0.5 leading-5 whitespace-pre-wrap break-words'

/** A rule as text: what may follow is offered while it is typed, and what is wrong is marked in place. */
export function Typed({ label, value, problems, known, disabled, onType, onDone }: Props) {
  const field = useRef<HTMLTextAreaElement>(null)
  const list = useId()
  const [caret, setCaret] = useState<number | null>(null)
  const [chosen, setChosen] = useState(0)
  const { offers, from } = caret === null ? { offers: [], from: 0 } : completions(value, caret, known)
  // The caret stands behind what was taken before the next key is typed.
  const placing = useRef<number | null>(null)
  useLayoutEffect(() => {
    if (placing.current !== null) field.current?.setSelectionRange(placing.current, placing.current)
    placing.current = null
  })
  const take = (offer: string) => {
    const after = `${value.slice(0, from)}${offer} ${value.slice(caret ?? value.length).trimStart()}`
    const at = from + offer.length + 1
    onType(after)
    setCaret(at)
    setChosen(0)
    placing.current = at
  }
  const first = problems[0]
  return (
    <div className="relative">
      <div className="relative border border-hair bg-plate focus-within:border-dusk">
        <div aria-hidden="true" className={`${TEXT} pointer-events-none absolute inset-0 text-transparent`}>
          {marked(value, problems)}
        </div>
        <textarea
          ref={field}
          rows={Math.min(4, 1 + Math.floor(value.length / 32))}
          className={`${TEXT} relative resize-none bg-transparent`}
          aria-label={label}
          aria-invalid={problems.length > 0}
          aria-describedby={first ? `${list}-problem` : undefined}
          aria-controls={offers.length > 0 ? list : undefined}
          aria-autocomplete="list"
          aria-activedescendant={offers.length > 0 ? `${list}-${chosen}` : undefined}
          placeholder="everyone; or a rule such as signed_in"
          spellCheck={false}
          disabled={disabled}
          value={value}
          onChange={(event) => {
            onType(event.target.value.replace(/\n/g, ' '))
            setCaret(event.target.selectionStart)
            setChosen(0)
          }}
          onBlur={() => {
            setCaret(null)
            onDone()
          }}
          onKeyDown={(event) => {
            if (offers.length === 0) {
              if (event.key === 'Enter') {
                event.preventDefault()
                onDone()
              }
              return
            }
            const step = { ArrowDown: 1, ArrowUp: -1 }[event.key]
            if (step) {
              event.preventDefault()
              setChosen((chosen + step + offers.length) % offers.length)
            } else if (event.key === 'Tab' || event.key === 'Enter') {
              event.preventDefault()
              take(offers[chosen] ?? '')
            } else if (event.key === 'Escape') {
              event.stopPropagation()
              setCaret(null)
            }
          }}
        />
      </div>
      {offers.length > 0 && (
        <div
          id={list}
          role="listbox"
          aria-label="What may stand here"
          className="absolute z-30 mt-px min-w-[160px] border border-ink bg-plate shadow-lg"
        >
          {offers.map((one, at) => (
            // biome-ignore lint/a11y/useKeyWithClickEvents: the keys are the field's
            <div
              key={one}
              id={`${list}-${at}`}
              role="option"
              tabIndex={-1}
              aria-selected={at === chosen}
              className={`mono cursor-pointer px-2 ${at === chosen ? 'bg-dusk-ground' : ''}`}
              onPointerDown={(event) => event.preventDefault()}
              onClick={() => take(one)}
            >
              {one}
            </div>
          ))}
        </div>
      )}
      {first && (
        <p id={`${list}-problem`} className="mt-0.5 text-small text-signal">
          column {first.column}: {first.says}
          {first.suggestion && (
            <>
              {'; '}
              {first.replacement ? (
                <button
                  type="button"
                  className="font-semibold underline"
                  onPointerDown={(event) => event.preventDefault()}
                  onClick={() => {
                    const begin = first.column - 1
                    onType(value.slice(0, begin) + first.replacement + value.slice(begin + first.length))
                  }}
                >
                  {first.suggestion}
                </button>
              ) : (
                first.suggestion
              )}
            </>
          )}
        </p>
      )}
    </div>
  )
}

/** The text with its wrong places underlined, to lie under the field. */
function marked(text: string, problems: readonly Schemas['MarkOut'][]) {
  const pieces = []
  let at = 0
  for (const one of problems) {
    const begin = Math.max(one.column - 1, at)
    pieces.push(text.slice(at, begin))
    at = begin + Math.max(one.length, 1)
    pieces.push(
      <span key={begin} className="bg-signal-ground underline decoration-signal decoration-wavy">
        {text.slice(begin, at) || ' '}
      </span>,
    )
  }
  return [...pieces, text.slice(at)]
}
