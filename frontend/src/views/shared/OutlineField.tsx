import { Asked } from '../../parts/Asked'
import { Input, TextArea } from '../../parts/Input'
import type { Typed } from './typed'

interface Props {
  typed: Typed
  onType: (typed: Typed) => void
  disabled?: boolean
}

/** A shared menu as it is written: its name, and its outline with what each site fills in. */
export function OutlineField({ typed, onType, disabled }: Props) {
  return (
    <>
      <Asked says="Name">
        {(id) => (
          <Input
            id={id}
            value={typed.name}
            disabled={disabled}
            maxLength={200}
            placeholder="Legal"
            className="w-full"
            onChange={(event) => onType({ ...typed, name: event.target.value })}
          />
        )}
      </Asked>
      <Asked says="Entries, one a line">
        {(id) => (
          <TextArea
            id={id}
            value={typed.outline}
            disabled={disabled}
            rows={Math.min(22, Math.max(8, typed.outline.split('\n').length + 1))}
            spellCheck={false}
            className="mono w-full text-small"
            placeholder={'Privacy -> @privacy\n"Call {site.phone}" -> tel:{site.phone}'}
            onChange={(event) => onType({ ...typed, outline: event.target.value })}
          />
        )}
      </Asked>
      <p className="text-small text-ink-2">
        <code>@privacy</code> is on each site the page that is its privacy page; <code>{'{site.phone}'}</code>{' '}
        is what its settings have for it, in a label in double quotes. Two spaces go a level down.
      </p>
    </>
  )
}
