import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import type { Met } from '../../outline/saver'
import { Button } from '../../parts/Button'
import { Sheet } from '../../parts/Sheet'
import { Told } from '../../parts/Told'

type Choice = 'ours' | 'theirs'

const KINDS: Record<string, string> = {
  'edit-edit': 'was changed by both',
  'edit-remove': 'was removed by one and changed by the other',
  'move-move': 'was moved by both',
  cycle: 'would end up inside itself',
  order: 'was put in another order by both',
  'add-add': 'was added by both',
}

interface Props {
  conflict: Met
  onSettle: (choices: Record<string, Choice>) => Promise<void>
  onLater: () => void
}

/**
 * What cannot be merged without a person, field by field. Nothing of either side is lost before, and it can wait: what one
 * goes on typing meets the same conflicts later.
 */
export function ConflictDialog({ conflict, onSettle, onLater }: Props) {
  const settle = useMutation({ mutationFn: onSettle })
  const [choices, setChoices] = useState<Record<string, Choice>>({})
  const who = conflict.by.join(' and ')
  const settled = conflict.conflicts.every((one) => choices[one.key])
  return (
    <Sheet
      title="Two edits meet"
      className="w-[640px] overflow-auto p-6"
      onOpen={(open) => !open && onLater()}
      stays="for clicks"
      says={
        <>
          {who} saved this menu meanwhile: {conflict.did.join('. ')}. Everything else is merged; say what
          holds here.
        </>
      }
    >
      {conflict.conflicts.map((one) => (
        <fieldset key={one.key} className="border-t border-hair py-2">
          <legend className="float-left w-full">
            <strong>{one.title}</strong> {KINDS[one.kind] ?? one.kind}
            {one.field && <span className="text-ink-2">: {one.field}</span>}
          </legend>
          {(['ours', 'theirs'] as const).map((side) => (
            <label key={side} className="mr-6 inline-flex items-baseline gap-2">
              <input
                type="radio"
                name={one.key}
                checked={choices[one.key] === side}
                onChange={() => setChoices((before) => ({ ...before, [one.key]: side }))}
              />
              {side === 'ours' ? 'mine' : `by ${who}`}: <strong>{one[side]}</strong>
            </label>
          ))}
        </fieldset>
      ))}
      <Told error={settle.error} />
      <div className="mt-4 flex justify-end gap-2">
        <Button onClick={onLater}>Decide later</Button>
        <Button tone="go" disabled={!settled || settle.isPending} onClick={() => settle.mutate(choices)}>
          Save this
        </Button>
      </div>
    </Sheet>
  )
}
