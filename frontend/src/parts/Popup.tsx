import { Popover } from 'radix-ui'
import type { ReactNode } from 'react'

interface Props {
  label: string
  align?: 'start' | 'end'
  /** Its size, and the room within. */
  className: string
  onOpenAutoFocus?: (event: Event) => void
  onCloseAutoFocus?: (event: Event) => void
  children: ReactNode
}

/** What opens over the page, hung on the control that opened it; within a `Popover.Root`. */
export function Popup({ label, align = 'end', className, children, ...focus }: Props) {
  return (
    <Popover.Portal>
      <Popover.Content
        align={align}
        sideOffset={6}
        collisionPadding={12}
        aria-label={label}
        className={`z-40 rounded-sign border border-ink bg-plate shadow-lg ${className}`}
        {...focus}
      >
        {children}
      </Popover.Content>
    </Popover.Portal>
  )
}
