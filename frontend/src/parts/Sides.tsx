export type Side = 'ours' | 'theirs'
export type Choices = Record<string, Side | 'both'>

/** Kinds of which both can stand, each as an entry of its own. */
const KEPT_BOTH = ['edit-edit', 'add-add']

interface Collision {
  key: string
  kind: string
  title: string
  field?: string | null
  menu?: string | null
  ours: string
  theirs: string
}

interface Props {
  collisions: readonly Collision[]
  /** What happened, in words that follow what it is about. */
  happened?: (collision: Collision) => string
  /** Whose each side is. */
  names: Record<Side, string>
  /** Whether theirs can stand beside ours. */
  both?: boolean
  choices: Choices
  onChoose: (change: (before: Choices) => Choices) => void
}

/** What two did not agree on, field by field, each with the two sides to choose from. */
export function Sides({ collisions, happened, names, both, choices, onChoose }: Props) {
  return collisions.map((one) => {
    const name = `${one.key} ${one.kind} ${one.field ?? ''}`
    return (
      <fieldset key={name} className="border-t border-hair py-2">
        <legend className="float-left w-full">
          <strong>{one.title}</strong> {happened?.(one)}
          {one.field && <span className="text-ink-2">: {one.field}</span>}
        </legend>
        {(['ours', 'theirs'] as const).map((side) => (
          <label key={side} className="mr-6 inline-flex items-baseline gap-2">
            <input
              type="radio"
              name={name}
              checked={choices[one.key] === side}
              onChange={() => onChoose((before) => ({ ...before, [one.key]: side }))}
            />
            {names[side]}: <strong>{one[side]}</strong>
          </label>
        ))}
        {both && KEPT_BOTH.includes(one.kind) && one.menu !== null && (
          <label className="inline-flex items-baseline gap-2">
            <input
              type="radio"
              name={name}
              checked={choices[one.key] === 'both'}
              onChange={() => onChoose((before) => ({ ...before, [one.key]: 'both' }))}
            />
            both, each as an entry
          </label>
        )}
      </fieldset>
    )
  })
}
