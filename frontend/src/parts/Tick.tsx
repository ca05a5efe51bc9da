import type { ReactNode } from 'react'

interface Props {
  checked: boolean
  onTick: (checked: boolean) => void
  disabled?: boolean
  children: ReactNode
}

/** A box that is ticked or not, pressed together with its words. */
export function Tick({ checked, onTick, disabled, children }: Props) {
  return (
    <label className="flex items-baseline gap-1.5">
      <input
        type="checkbox"
        checked={checked}
        disabled={disabled}
        onChange={(event) => onTick(event.target.checked)}
      />
      {children}
    </label>
  )
}
