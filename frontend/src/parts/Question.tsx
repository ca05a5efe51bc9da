import { AlertDialog } from 'radix-ui'
import { type ReactNode, useState } from 'react'
import { Button } from './Button'
import { useWayBack } from './useWayBack'

interface Props {
  title: string
  children: ReactNode
  /** What goes on with what was asked about, and what leaves all as it is. */
  go: string
  stay: string
  onGo: () => void
  onStay: () => void
}

/** Asks before something that cannot be undone. It is open while it is drawn; the way back has the focus. */
export function Question({ title, children, go, stay, onGo, onStay }: Props) {
  const goBack = useWayBack()
  return (
    <AlertDialog.Root open onOpenChange={(open) => !open && onStay()}>
      <AlertDialog.Portal>
        <AlertDialog.Overlay className="fixed inset-0 z-[60] bg-ink/40" />
        <AlertDialog.Content
          onCloseAutoFocus={goBack}
          className="fixed top-1/2 left-1/2 z-[70] w-[460px] max-w-[94vw] -translate-x-1/2 -translate-y-1/2 rounded-sign border-[1.5px] border-ink bg-plate p-6"
        >
          <AlertDialog.Title className="text-head font-bold">{title}</AlertDialog.Title>
          <AlertDialog.Description className="mt-1 mb-4 text-ink-2">{children}</AlertDialog.Description>
          <div className="flex justify-end gap-2">
            <AlertDialog.Action asChild>
              <Button onClick={onGo}>{go}</Button>
            </AlertDialog.Action>
            <AlertDialog.Cancel asChild>
              <Button tone="go">{stay}</Button>
            </AlertDialog.Cancel>
          </div>
        </AlertDialog.Content>
      </AlertDialog.Portal>
    </AlertDialog.Root>
  )
}

/** Leaving a sheet: at once where nothing on it was changed, else after asking. `question` is drawn on the sheet. */
export function useLeaving(
  changed: boolean,
  what: string,
  onLeave: () => void,
): { leave: () => void; question: ReactNode } {
  const [asking, setAsking] = useState(false)
  return {
    leave: () => (changed ? setAsking(true) : onLeave()),
    question: asking && (
      <Question
        title="Not kept yet"
        go="Throw it away"
        stay="Go on"
        onGo={onLeave}
        onStay={() => setAsking(false)}
      >
        What you changed of {what} is lost when you leave without keeping it.
      </Question>
    ),
  }
}
