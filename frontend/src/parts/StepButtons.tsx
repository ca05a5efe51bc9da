import { Button } from './Button'
import type { Steps } from './useSteps'

/** The way back and forth through what was changed on a sheet. */
export function StepButtons<T>({ steps }: { steps: Steps<T> }) {
  return (
    <>
      <Button small onClick={steps.undo} disabled={!steps.canUndo} title="Ctrl+Z">
        Undo
      </Button>
      <Button small onClick={steps.redo} disabled={!steps.canRedo} title="Ctrl+Shift+Z">
        Redo
      </Button>
    </>
  )
}
