import type { Schemas } from '../../api/client'
import { Button } from '../../parts/Button'
import { FactValue } from '../../parts/FactValue'
import { Input } from '../../parts/Input'
import type { AudienceRow } from './known'

interface Props {
  audience: AudienceRow
  /** The facts that may be known of it. */
  known: readonly Schemas['FactChoice'][]
  onChange: (audience: AudienceRow | null) => void
}

/** A kind of visitor: its name, and what is known of it. */
export function AudienceLine({ audience, known, onChange }: Props) {
  const supply = (name: string, value: unknown) => {
    const { [name]: _, ...others } = audience.facts
    onChange({ ...audience, facts: value === undefined ? others : { ...others, [name]: value } })
  }
  return (
    <div className="border-t border-hair py-1">
      <span className="flex items-baseline gap-2">
        <Input
          aria-label="Name of the audience"
          value={audience.name}
          onChange={(event) => onChange({ ...audience, name: event.target.value })}
          className="font-semibold"
        />
        <Button small tone="quiet" className="ml-auto" onClick={() => onChange(null)}>
          take away
        </Button>
      </span>
      <ul className="ml-3">
        {known.map((fact) => (
          <li key={fact.name} className="flex flex-wrap items-baseline gap-x-3">
            <code className="w-[120px] flex-none truncate">{fact.name}</code>
            <FactValue
              fact={fact}
              value={audience.facts[fact.name]}
              onChange={(value) => supply(fact.name, value)}
            />
          </li>
        ))}
      </ul>
    </div>
  )
}
