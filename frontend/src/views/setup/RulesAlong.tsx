import type { Schemas } from '../../api/client'
import { Button } from '../../parts/Button'
import { Input } from '../../parts/Input'
import { Mark } from '../../parts/Mark'

interface Props {
  uses: readonly Schemas['RuleUse'][]
  editable: boolean
  mends: Readonly<Record<string, string>>
  onMend: (before: string, after: string) => void
}

/** Every rule that entries have, how it will be written, and what has to be mended before it can be kept. */
export function RulesAlong({ uses, editable, mends, onMend }: Props) {
  const broken = uses.filter((use) => use.problem).length
  return (
    <>
      <h3 className="font-bold">
        Rules of entries · {uses.length}{' '}
        {broken > 0 && <Mark kind="stop">{broken === 1 ? 'one has' : `${broken} have`} to be mended</Mark>}
      </h3>
      {uses.length === 0 && <p className="text-ink-2">No entry has a rule.</p>}
      <ul>
        {uses.map((use) => (
          <li key={use.before} className="border-t border-hair py-1.5">
            <code className={use.after === use.before ? '' : 'line-through'}>{use.before}</code>
            {use.after !== use.before && (
              <span className="block">
                → <code>{use.after}</code>
              </span>
            )}
            <span className="block text-small text-ink-2">
              {use.places.map((place) => `${place.label} (${place.site}, ${place.menu})`).join(', ')}
            </span>
            {use.problem && (
              <span className="block">
                <Mark kind="stop">no longer valid</Mark> {use.problem}
              </span>
            )}
            {(use.problem || use.before in mends) && editable && (
              <span className="mt-0.5 flex items-baseline gap-2">
                <Input
                  aria-label={`Mend ${use.before}`}
                  value={mends[use.before] ?? use.after}
                  onChange={(event) => onMend(use.before, event.target.value)}
                  className="mono min-w-0 flex-1"
                />
                {use.suggested && use.suggested !== use.after && (
                  <Button small onClick={() => onMend(use.before, use.suggested ?? '')}>
                    {use.suggested === 'never' ? 'nobody: never' : use.suggested}
                  </Button>
                )}
              </span>
            )}
          </li>
        ))}
      </ul>
    </>
  )
}
