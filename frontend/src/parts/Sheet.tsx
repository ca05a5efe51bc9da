import { Dialog } from 'radix-ui'
import type { KeyboardEvent, ReactNode } from 'react'
import { useWayBack } from './useWayBack'

interface Props {
  title: ReactNode
  /** Rows, columns and size of what is on it. */
  className: string
  onOpen: (open: boolean) => void
  /** Stands beside the title. */
  beside?: ReactNode
  /** Says below the title what it is about. */
  says?: ReactNode
  /** What does not close it: a click beside it, or whatever it is but its own buttons. */
  stays?: 'for clicks' | 'for all'
  /** Keys that what is on it has left. */
  onKeyDown?: (event: KeyboardEvent) => void
  /** Where one goes on once it is closed: true where that was done, else one goes back to where one came from. */
  goOn?: () => boolean
  children: ReactNode
}

/** A large sheet over the view, for work that takes a moment of its own. It is open while it is drawn. */
export function Sheet({ title, className, onOpen, beside, says, stays, onKeyDown, goOn, children }: Props) {
  const goBack = useWayBack()
  return (
    <Dialog.Root open onOpenChange={onOpen}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-ink/40" />
        <Dialog.Content
          {...(says ? {} : { 'aria-describedby': undefined })}
          onInteractOutside={(event) => stays && event.preventDefault()}
          onEscapeKeyDown={(event) => stays === 'for all' && event.preventDefault()}
          onCloseAutoFocus={(event) => {
            if (goOn?.()) event.preventDefault()
            else goBack(event)
          }}
          onKeyDown={onKeyDown}
          className={`fixed top-1/2 left-1/2 z-50 grid max-h-[92vh] max-w-[94vw] -translate-x-1/2 -translate-y-1/2 rounded-sign border-[1.5px] border-ink bg-plate ${className}`}
        >
          <header className="col-span-full flex items-baseline gap-4">
            <Dialog.Title className="text-head font-bold">{title}</Dialog.Title>
            {beside}
          </header>
          {says && (
            <Dialog.Description className="col-span-full mt-1 mb-3 text-ink-2">{says}</Dialog.Description>
          )}
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  )
}
