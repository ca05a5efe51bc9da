import { useState } from 'react'
import type { Schemas } from '../api/client'
import type { Lens } from '../lens/lens'
import { Button } from '../parts/Button'
import { FactValue } from '../parts/FactValue'
import { Sheet } from '../parts/Sheet'

interface Props {
  known: Schemas['FactsOut']
  lens: Lens
  onFacts: (facts: Record<string, unknown> | undefined) => void
  onClose: () => void
}

/** What is known of the lens's visitor, fact by fact, over what is known of the audience. */
export function FactsByHand({ known, lens, onFacts, onClose }: Props) {
  const [facts, setFacts] = useState<Record<string, unknown>>(lens.facts ?? {})
  const usual = (lens.audience && known.audiences[lens.audience]) || {}
  const own = known.known.filter((one) => one.type !== 'rule' && !SUPPLIED.has(one.name))
  return (
    <Sheet
      title="What is known of the visitor"
      onOpen={(open) => !open && onClose()}
      className="w-[560px] p-5"
      beside={
        <span className="ml-auto flex gap-2">
          <Button
            small
            tone="go"
            onClick={() => {
              onFacts(Object.keys(facts).length > 0 ? facts : undefined)
              onClose()
            }}
          >
            Look so
          </Button>
          <Button small onClick={onClose}>
            Close
          </Button>
        </span>
      }
    >
      <ul className="mt-3 text-body">
        {own.map((fact) => {
          const byHand = fact.name in facts
          return (
            <li key={fact.name} className="flex min-h-[32px] items-baseline gap-3 border-t border-hair py-1">
              <code className="w-[150px] flex-none truncate">{fact.name}</code>
              <span className="min-w-0 flex-1">
                <FactValue
                  fact={fact}
                  value={byHand ? facts[fact.name] : usual[fact.name]}
                  onChange={(value) => setFacts({ ...facts, [fact.name]: value ?? null })}
                />
              </span>
              {byHand && (
                <Button
                  small
                  tone="quiet"
                  onClick={() =>
                    setFacts(Object.fromEntries(Object.entries(facts).filter(([name]) => name !== fact.name)))
                  }
                >
                  as {lens.audience ?? 'anybody'}
                </Button>
              )}
            </li>
          )
        })}
      </ul>
      <p className="mt-2 text-small text-ink-2">
        Device, language, page and the hour follow from the lens. A fact that is not supplied leaves its rules
        unknown, and what they guard hidden.
      </p>
    </Sheet>
  )
}

/** Facts that the lens supplies by itself. */
const SUPPLIED = new Set(['device', 'language', 'page', 'section', 'weekday', 'month', 'hour'])
