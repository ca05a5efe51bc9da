import type { ReactNode } from 'react'
import { languageName } from '../../../lens/lens'
import type { Item } from '../../../outline/tree'
import { Input } from '../../../parts/Input'

/** Changes the item; changes of the same run are one step of undo. */
export type SetItem = (change: (before: Item) => Item, run: string) => void

/** One sentence of the item: what it is about, then its words. */
export function Line({ name, children }: { name: string; children: ReactNode }) {
  return (
    <>
      <dt className="text-ink-2">{name}</dt>
      <dd className="m-0 min-w-0">{children}</dd>
    </>
  )
}

/** One line of words in a language, with the language beside it. */
export function InLanguage(props: {
  name: string
  language: string
  value: string
  placeholder: string
  disabled: boolean
  onChange: (words: string) => void
  children?: ReactNode
}) {
  return (
    <span className="flex items-baseline gap-2">
      <Input
        className="w-full"
        lang={props.language}
        dir="auto"
        aria-label={`${props.name} in ${languageName(props.language)}`}
        placeholder={props.placeholder}
        disabled={props.disabled}
        value={props.value}
        onChange={(event) => props.onChange(event.target.value)}
      />
      <span className="w-[72px] flex-none truncate text-small text-ink-2">
        {languageName(props.language)}
      </span>
      {props.children}
    </span>
  )
}
