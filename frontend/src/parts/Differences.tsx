import { Popover } from 'radix-ui'
import { type ReactNode, useState } from 'react'
import { Button } from './Button'
import { Popup } from './Popup'
import { Told } from './Told'

interface Difference {
  key: string
  says: string
  /** Whose it is, where that is known. */
  by?: string | null
}

interface Props<T extends Difference> {
  /** What the button that opens the list says, and the list's own name. */
  trigger: string
  label: string
  edits: readonly T[]
  /** How many there are, with those that `children` lists. */
  count: number
  /** How many of them are not listed. */
  unlisted?: number
  editable: boolean
  pending: boolean
  error: unknown
  onBack: (edits: readonly T[]) => void
  /** Goes to what an edit is about; null where there is nothing to go to. */
  goTo?: (edit: T) => (() => void) | null
  allBack?: boolean
  children?: ReactNode
}

/** What a draft changes against what is live, in plain sentences; each can be taken back by itself. */
export function Differences<T extends Difference>(props: Props<T>) {
  const { edits, count, unlisted = 0, editable, pending } = props
  const [open, setOpen] = useState(false)
  const several = new Set(edits.map((edit) => edit.by)).size > 1
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger asChild>
        <Button small disabled={count === 0}>
          {props.trigger} · {count}
        </Button>
      </Popover.Trigger>
      <Popup label={props.label} className="flex max-h-[70vh] w-[520px] flex-col">
        <h2 className="px-4 pt-3 pb-1">Against what is live</h2>
        <Told error={props.error} />
        <ul className="min-h-0 flex-1 overflow-auto px-4 pb-3">
          {props.children}
          {edits.map((edit) => {
            const go = props.goTo?.(edit) ?? null
            return (
              <li
                key={edit.key}
                className="group flex items-baseline gap-2 border-t border-hair py-1 first:border-0"
              >
                <button
                  type="button"
                  className="min-w-0 flex-1 text-left enabled:hover:underline"
                  disabled={go === null}
                  onClick={() => {
                    go?.()
                    setOpen(false)
                  }}
                >
                  {edit.says}
                </button>
                {several && edit.by && <span className="text-small text-ink-2">{edit.by}</span>}
                {editable && (
                  <Button
                    small
                    aria-label={`Take back: ${edit.says}`}
                    disabled={pending}
                    onClick={() => props.onBack([edit])}
                  >
                    Take back
                  </Button>
                )}
              </li>
            )
          })}
          {unlisted > 0 && <li className="border-t border-hair pt-1 text-ink-2">and {unlisted} more</li>}
        </ul>
        {editable && props.allBack && edits.length > 1 && unlisted === 0 && (
          <p className="border-t border-hair px-4 py-2 text-right">
            <Button small disabled={pending} onClick={() => props.onBack(edits)}>
              Take all of it back
            </Button>
          </p>
        )}
      </Popup>
    </Popover.Root>
  )
}
