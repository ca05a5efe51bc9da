import type { ComponentProps, ReactNode } from 'react'

type Option = string | readonly [value: string, says: ReactNode]

type Props = Omit<ComponentProps<'select'>, 'onChange'> & {
  /** What can be chosen, where it is no more than words. */
  options?: readonly Option[]
  onChoose: (value: string) => void
}

/** One of several, chosen from a list that opens. */
export function Choice({ className = '', options = [], onChoose, children, ...rest }: Props) {
  return (
    <select className={`choice ${className}`} onChange={(event) => onChoose(event.target.value)} {...rest}>
      {children}
      {options.map((one) => {
        const [value, says] = typeof one === 'string' ? [one, one] : one
        return (
          <option key={value} value={value}>
            {says}
          </option>
        )
      })}
    </select>
  )
}
