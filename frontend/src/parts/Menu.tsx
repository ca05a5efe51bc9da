import { DropdownMenu } from 'radix-ui'
import type { ReactElement, ReactNode } from 'react'

const OPTION =
  'flex min-h-6 cursor-pointer items-baseline justify-between gap-6 rounded-xs px-3 py-1 outline-none data-[disabled]:text-ink-3 data-[highlighted]:bg-dusk-ground data-[state=checked]:font-bold'

interface Props {
  /** The button that opens it. */
  button: ReactElement
  align?: 'start' | 'end'
  className?: string
  children: ReactNode
}

/** What can be done, or chosen, from a button. */
export function Menu({ button, align = 'end', className = '', children }: Props) {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>{button}</DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align={align}
          sideOffset={6}
          collisionPadding={8}
          className={`z-40 max-h-[var(--radix-dropdown-menu-content-available-height)] max-w-[460px] overflow-auto rounded-sign border border-ink bg-plate p-1 shadow-lg ${className}`}
        >
          {children}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  )
}

interface ActProps {
  onAct?: () => void
  disabled?: boolean
  /** The child is the link that is followed. */
  asChild?: boolean
  className?: string
  children: ReactNode
}

export function MenuAct({ onAct, className = OPTION, ...rest }: ActProps) {
  return <DropdownMenu.Item onSelect={onAct} className={className} {...rest} />
}

interface ChoicesProps {
  value: string
  options: readonly { value: string; says: ReactNode; note?: ReactNode }[]
  onChoose: (value: string) => void
}

/** Options of which one holds. */
export function MenuChoices({ value, options, onChoose }: ChoicesProps) {
  return (
    <DropdownMenu.RadioGroup value={value} onValueChange={onChoose}>
      {options.map((one) => (
        <DropdownMenu.RadioItem key={one.value} value={one.value} className={OPTION}>
          <span>{one.says}</span>
          {one.note && <span className="font-normal text-note text-ink-2">{one.note}</span>}
        </DropdownMenu.RadioItem>
      ))}
    </DropdownMenu.RadioGroup>
  )
}

export function MenuLine() {
  return <DropdownMenu.Separator className="my-1 border-t border-hair" />
}
