import { type KeyboardEvent, type ReactNode, type Ref, useEffect, useId, useRef } from 'react'

interface Props<T> {
  /** What the field asks for, and what its list is called. */
  label: string
  listLabel: string
  words: string
  onWords: (words: string) => void
  options: readonly T[]
  keyOf: (option: T) => string
  /** Which of the options Enter takes. */
  at: number
  onAt: (at: number) => void
  /** Enter was pressed; the option is absent where there is none. */
  onEnter: (option: T | undefined) => void
  onTake: (option: T) => void
  /** Keys besides arrows and Enter. */
  onKeyDown?: (event: KeyboardEvent) => void
  children: (option: T, chosen: boolean) => ReactNode
  /** What stands in the list after its options, or in place of them. */
  after?: ReactNode
  placeholder?: string
  input?: Ref<HTMLInputElement>
  className?: string
  listClassName?: string
  /** How many options stand beside each other: the arrows to the sides go through them then. */
  columns?: number
}

/** A field with a list of what answers to its words (the combobox of WAI-ARIA's authoring practices): arrows go round it. */
export function Combobox<T>(props: Props<T>) {
  const { words, options, keyOf, at, onAt, onEnter, onTake, columns = 1 } = props
  const list = useId()
  const onKeyDown = (event: KeyboardEvent) => {
    // The keys of an input method are its own: Enter there ends a word.
    if (event.nativeEvent.isComposing) return
    const step = stepOf(event.key, columns)
    if (step) {
      event.preventDefault()
      const next = at + step
      // Lines go round; among columns the edge is the edge.
      if (columns === 1) onAt((next + options.length) % Math.max(options.length, 1))
      else if (next >= 0 && next < options.length) onAt(next)
    } else if (event.key === 'Enter') {
      event.preventDefault()
      event.stopPropagation()
      onEnter(options[at])
    } else props.onKeyDown?.(event)
  }
  return (
    <>
      <input
        ref={props.input}
        role="combobox"
        aria-label={props.label}
        aria-expanded="true"
        aria-controls={list}
        aria-activedescendant={options[at] === undefined ? undefined : `${list}-${at}`}
        autoComplete="off"
        value={words}
        placeholder={props.placeholder}
        onChange={(event) => props.onWords(event.target.value)}
        onKeyDown={onKeyDown}
        className={`w-full border-b border-edge bg-transparent outline-none ${props.className ?? ''}`}
      />
      <div
        id={list}
        role="listbox"
        aria-label={props.listLabel}
        className={`overflow-auto ${props.listClassName}`}
      >
        {options.map((option, index) => (
          <Option
            key={keyOf(option)}
            id={`${list}-${index}`}
            chosen={index === at}
            onTake={() => onTake(option)}
          >
            {props.children(option, index === at)}
          </Option>
        ))}
        {props.after}
      </div>
    </>
  )
}

function stepOf(key: string, columns: number): number {
  if (key === 'ArrowDown') return columns
  if (key === 'ArrowUp') return -columns
  return columns > 1 ? Number(key === 'ArrowRight') - Number(key === 'ArrowLeft') : 0
}

function Option(props: { id: string; chosen: boolean; onTake: () => void; children: ReactNode }) {
  const line = useRef<HTMLDivElement>(null)
  useEffect(() => {
    if (props.chosen) line.current?.scrollIntoView({ block: 'nearest' })
  }, [props.chosen])
  return (
    // biome-ignore lint/a11y/useKeyWithClickEvents: the field above has the keys
    <div
      ref={line}
      id={props.id}
      role="option"
      aria-selected={props.chosen}
      onClick={props.onTake}
      className="flex min-h-6 cursor-pointer items-baseline gap-2 rounded-xs px-2 py-1 whitespace-nowrap aria-selected:bg-dusk-ground"
    >
      {props.children}
    </div>
  )
}
