import type { ReactNode } from 'react'

export type MarkKind = 'stop' | 'ok' | 'next' | 'waiting' | 'drift' | 'open'

const LOOKS: Record<MarkKind, string> = {
  stop: 'text-signal before:bg-signal before:[clip-path:polygon(50%_0,100%_100%,0_100%)]',
  ok: 'text-moss before:rounded-full before:bg-moss',
  next: 'text-dusk before:rounded-[1px] before:border-2 before:border-l-4 before:border-dusk',
  waiting: 'text-ink before:rounded-full before:border-2 before:border-ink before:border-r-[transparent]',
  drift: 'text-signal before:-skew-y-[18deg] before:border-y-2 before:border-signal',
  open: 'text-ink-2 before:border-[1.5px] before:border-dashed before:border-ink-2',
}

/** A shape and a word, never colour alone. */
export function Mark({ kind, children }: { kind: MarkKind; children: ReactNode }) {
  return (
    <span
      data-mark={kind}
      className={`inline-flex items-center gap-1 text-note leading-4 whitespace-nowrap before:size-2 before:flex-none before:content-[''] ${LOOKS[kind]}`}
    >
      {children}
    </span>
  )
}
