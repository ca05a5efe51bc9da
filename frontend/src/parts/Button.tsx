import type { ComponentProps } from 'react'

type Props = ComponentProps<'button'> & { tone?: 'plain' | 'go' | 'quiet'; small?: boolean }

const TONES = {
  plain: 'border-ink bg-plate text-ink enabled:hover:bg-paper-2',
  go: 'border-ink bg-ink text-paper enabled:hover:opacity-90',
  quiet:
    'border-transparent text-ink-2 enabled:hover:text-ink underline decoration-dashed underline-offset-4',
}

export function Button({ tone = 'plain', small = false, className = '', type = 'button', ...rest }: Props) {
  const size = small ? 'min-h-6 border px-2 text-small' : 'border-[1.5px] px-3 py-1'
  return (
    <button
      type={type}
      className={`rounded-sign font-semibold whitespace-nowrap disabled:opacity-55 ${size} ${TONES[tone]} ${className}`}
      {...rest}
    />
  )
}
