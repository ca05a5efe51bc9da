import { useQuery } from '@tanstack/react-query'
import { memo, useState } from 'react'
import { findingsQuery } from '../../api/queries'
import { Button } from '../../parts/Button'
import { Mark, type MarkKind } from '../../parts/Mark'
import { useSettled } from '../../parts/useSettled'

const MARKS: Record<'stop' | 'warn' | 'note', MarkKind> = { stop: 'stop', warn: 'waiting', note: 'open' }

interface Props {
  site: string
  menu: string
  hash: string
  /** The lens's moment: what is wrong with it then. */
  at: string | undefined
  editable: boolean
  onItem: (id: string) => void
  /** Goes to the line and opens what mends it. */
  onFix: (id: string) => void
}

/** What is wrong with this menu, the gravest first; each leads to its line. */
export const Findings = memo(function Findings({ site, menu, hash, at, editable, onItem, onFix }: Props) {
  const findings = useQuery(findingsQuery(site, menu, useSettled(hash, 500), at)).data ?? []
  const stops = findings.filter((one) => one.severity === 'stop').length
  const [open, setOpen] = useState(false)
  if (findings.length === 0) return null
  const says = findings.length === 1 ? '1 finding' : `${findings.length} findings`
  return (
    <section
      aria-label="Findings"
      className="col-span-full flex min-h-0 items-baseline gap-4 border-t border-hair bg-plate px-[18px] py-1 text-small"
    >
      <h2 className="flex-none text-small">
        <button type="button" aria-expanded={open} className="hover:underline" onClick={() => setOpen(!open)}>
          {says}
          {stops > 0 && <span className="text-signal"> · {stops} to stop</span>} {open ? '▾' : '▸'}
        </button>
      </h2>
      <ul
        className={`min-h-0 flex-1 ${open ? 'max-h-[34vh] overflow-auto' : 'flex h-[22px] flex-wrap items-baseline gap-x-5 overflow-hidden'}`}
      >
        {findings.map((one) => (
          <li
            key={`${one.code} ${one.item} ${one.says}`}
            className="flex max-w-full items-baseline gap-2 py-px"
          >
            <Mark kind={MARKS[one.severity]}>
              <span className="sr-only">{one.severity}</span>
            </Mark>
            <button
              type="button"
              className="min-h-6 min-w-0 truncate text-left hover:underline"
              onClick={() => one.item && onItem(one.item)}
            >
              <span className="mono text-ink-2">{one.number}</span> {one.says}
            </button>
            {editable && one.item && one.fix?.startsWith('Choose') && (
              <Button small onClick={() => one.item && onFix(one.item)}>
                {one.fix.replace(/\.$/, '')}
              </Button>
            )}
          </li>
        ))}
      </ul>
    </section>
  )
})
