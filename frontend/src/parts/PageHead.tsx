import { type ReactNode, useEffect, useRef } from 'react'
import { isAtWork } from './atWork'
import { useTitle } from './useTitle'

interface Props {
  /** What the browser's tab and its history call the view, the nearest first. */
  names: readonly (string | undefined)[]
  /** The heading, where it is more than the first of the names. */
  title?: ReactNode
  /** What stands beside it in small. */
  beside?: ReactNode
  /** What can be done here. */
  children?: ReactNode
}

/** The head of a view: its title, which has the focus when one came here by a link, and what can be done. */
export function PageHead({ names, title, beside, children }: Props) {
  const head = useRef<HTMLHeadingElement>(null)
  useTitle(...names)
  useEffect(() => {
    if (!isAtWork()) head.current?.focus({ preventScroll: true })
  }, [])
  return (
    <div className="mb-2 flex flex-wrap items-baseline gap-x-3 gap-y-1">
      <h1 ref={head} tabIndex={-1} className="focus-visible:outline-none">
        {title ?? names[0]}
      </h1>
      {beside && <span className="text-ink-2">{beside}</span>}
      {children && (
        <span className="ml-auto flex flex-wrap items-baseline gap-x-3 gap-y-1 max-sm:ml-0">{children}</span>
      )}
    </div>
  )
}
