import { Field } from './Field'

interface Props {
  says: string
  value: string | null | undefined
  /** What holds where no colour is chosen; absent: a colour is always chosen. */
  otherwise?: string | null
  /** What the way back to that says. */
  back?: string
  onChange: (value: string | null) => void
}

/** A colour by hand, with its code beside it. */
export function ColourField({ says, value, otherwise, back = 'as normal', onChange }: Props) {
  return (
    <Field says={says}>
      {(id) => (
        <span className="flex items-center gap-1">
          {otherwise !== undefined && value && (
            <button type="button" onClick={() => onChange(null)} className="text-note text-ink-2 underline">
              {back}
            </button>
          )}
          <code className="text-ink-2">{value ?? ''}</code>
          <input
            id={id}
            type="color"
            value={value ?? otherwise ?? '#000000'}
            onChange={(event) => onChange(event.target.value)}
            className="h-6 w-9 cursor-pointer border border-hair bg-transparent p-0"
          />
        </span>
      )}
    </Field>
  )
}
