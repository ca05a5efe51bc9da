import { Button } from './Button'
import type { Steps } from './useSteps'

type Back = Pick<Steps<unknown>, 'undo' | 'redo' | 'canUndo' | 'canRedo'>

/** The way back and forth through what was changed. */
export function StepButtons({ steps }: { steps: Back }) {
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
