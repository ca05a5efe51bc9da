import { keepPreviousData, useMutation, useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { keys } from '../../api/keys'
import { useLens } from '../../lens/useLens'
import { SideTrees } from '../../outline/SideTrees'
import type { Met } from '../../outline/saver'
import type { MenuDocument } from '../../outline/tree'
import { Button } from '../../parts/Button'
import { Sheet } from '../../parts/Sheet'
import { type Choices, Sides } from '../../parts/Sides'
import { Told } from '../../parts/Told'

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
  onSettle: (choices: Choices) => Promise<void>
  onLater: () => void
  /** The menu as one has it oneself, and what comes of the choices so far. */
  mine: () => MenuDocument
  onLook: (choices: Choices) => Promise<{ theirs: MenuDocument; result: MenuDocument }>
}

/**
 * What cannot be merged without a person, field by field. Nothing of either side is lost before, and it can wait: what one
 * goes on typing meets the same conflicts later.
 */
export function ConflictDialog({ conflict, onSettle, onLater, mine, onLook }: Props) {
  const settle = useMutation({ mutationFn: onSettle })
  const [choices, setChoices] = useState<Choices>({})
  const language = useLens().language ?? ''
  const seen = useQuery({
    queryKey: keys.mine('meets', conflict.base, mine(), choices),
    queryFn: () => onLook(choices),
    placeholderData: keepPreviousData,
    gcTime: 0,
  })
  const who = conflict.by.join(' and ')
  const settled = conflict.conflicts.every((one) => choices[one.key])
  return (
    <Sheet
      title="Two edits meet"
      className="w-[860px] overflow-auto p-6"
      onOpen={(open) => !open && onLater()}
      stays="for clicks"
      says={
        <>
          {who} saved this menu meanwhile: {conflict.did.join('. ')}. Everything else is merged; say what
          holds here.
        </>
      }
    >
      <Sides
        collisions={conflict.conflicts}
        happened={(one) => KINDS[one.kind] ?? one.kind}
        names={{ ours: 'mine', theirs: `by ${who}` }}
        both
        choices={choices}
        onChoose={setChoices}
      />
      {seen.data && (
        <SideTrees
          names={{ ours: 'mine', theirs: `by ${who}` }}
          ours={mine().items ?? []}
          theirs={seen.data.theirs.items ?? []}
          result={seen.data.result.items ?? []}
          language={language}
        />
      )}
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
