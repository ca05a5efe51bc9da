import type { ReactNode } from 'react'

/** A part of a view that scrolls by itself. Nothing in it need take focus, so it does: the keyboard must reach it. */
export function Scrolled(props: { label: string; className: string; children: ReactNode }) {
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls, so the keyboard must reach it
    <section aria-label={props.label} tabIndex={0} className={`min-h-0 overflow-auto ${props.className}`}>
      {props.children}
    </section>
  )
}
