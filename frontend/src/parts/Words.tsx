import { useId } from 'react'

interface Props<T extends string> {
  /** What is chosen, for who does not see it. */
  name: string
  value: T | null
  options: readonly T[]
  /** What each is called, where that is not the word itself. */
  shown?: Readonly<Record<T, string>>
  onChoose: (value: T) => void
  disabled?: boolean
  /** The options that cannot be chosen now. */
  closed?: readonly T[]
  /** A word before them that is read along. */
  says?: string
  /** With dots between them, as within a sentence. */
  dotted?: boolean
  className?: string
}

/** A few words of which one holds: arrow keys go from one to the next. */
export function Words<T extends string>(props: Props<T>) {
  const group = useId()
  return (
    <fieldset
      className={`flex flex-wrap items-baseline gap-x-2 ${props.className ?? ''}`}
      disabled={props.disabled}
    >
      <legend className="sr-only">{props.name}</legend>
      {props.says}
      {props.options.map((one, at) => (
        <span key={one} className="flex gap-2">
          {props.dotted && at > 0 && <span aria-hidden="true">·</span>}
          <label className="cursor-pointer has-checked:font-bold has-checked:text-ink has-checked:underline has-disabled:cursor-default has-focus-visible:outline-2 has-focus-visible:outline-dusk">
            <input
              type="radio"
              name={group}
              className="sr-only"
              checked={props.value === one}
              disabled={props.closed?.includes(one)}
              onChange={() => props.onChoose(one)}
            />
            {props.shown?.[one] ?? one}
          </label>
        </span>
      ))}
    </fieldset>
  )
}
