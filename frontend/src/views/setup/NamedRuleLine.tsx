import { Button } from '../../parts/Button'
import { Input } from '../../parts/Input'
import type { Draft } from './known'

type Row = Draft['rules'][number]

interface Props {
  rule: Row
  /** The entries whose rule names it. */
  used: readonly string[]
  onChange: (rule: Row | null) => void
}

/** A rule that has a name, and who uses it. */
export function NamedRuleLine({ rule, used, onChange }: Props) {
  return (
    <div className="border-t border-hair py-1">
      <span className="flex items-baseline gap-2">
        <Input
          aria-label="Name of the rule"
          value={rule.name}
          onChange={(event) => onChange({ ...rule, name: event.target.value })}
          className="w-[120px] font-semibold"
        />
        <Input
          aria-label={`The rule ${rule.name}`}
          value={rule.text}
          onChange={(event) => onChange({ ...rule, text: event.target.value })}
          className="mono min-w-0 flex-1"
        />
        <Button small tone="quiet" onClick={() => onChange(null)}>
          take away
        </Button>
      </span>
      <span className="text-small text-ink-2">
        {used.length === 0 ? 'used by no entry yet' : `used by ${used.join(', ')}`}
      </span>
    </div>
  )
}
