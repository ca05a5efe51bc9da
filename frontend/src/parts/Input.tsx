import type { ComponentProps } from 'react'

/** What is typed on one line: text, a search, a number, a password. */
export function Input({ className = '', ...rest }: ComponentProps<'input'>) {
  return <input className={`field ${className}`} {...rest} />
}

/** What is typed on several lines. */
export function TextArea({ className = '', ...rest }: ComponentProps<'textarea'>) {
  return <textarea className={`field ${className}`} {...rest} />
}
