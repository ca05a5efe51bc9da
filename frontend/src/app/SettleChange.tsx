import { useMutation, useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { answered, client, type Schemas } from '../api/client'
import { worksElsewhere } from '../api/inside'
import { useAnew } from '../api/keys'
import { conflictsQuery } from '../api/queries'
import { Button } from '../parts/Button'
import { Sheet } from '../parts/Sheet'
import { Told } from '../parts/Told'

type Choice = 'ours' | 'theirs'

interface Props {
  site: string
  change: Schemas['ChangeName']
  onClose: () => void
}

/** Something else went live since the change set out: it sets out from that, once what both changed is settled. */
export function SettleChange({ site, change, onClose }: Props) {
  const anew = useAnew()
  const found = useQuery(conflictsQuery(site, change.id))
  const [choices, setChoices] = useState<Record<string, Choice>>({})
  const settle = useMutation({
    mutationFn: () =>
      answered(
        client.POST('/api/sites/{site}/changes/{change}/catch-up', {
          params: { path: { site, change: change.id } },
          body: { choices },
        }),
      ),
    onSuccess: async (left) => {
      if (left.length === 0) {
        onClose()
        worksElsewhere()
      }
      await anew.site(site)
    },
  })
  const conflicts = found.data ?? []
  const settled = found.isSuccess && conflicts.every((one) => choices[one.key])
  return (
    <Sheet
      title="Live has moved on"
      className="w-[680px] gap-3 overflow-auto p-6"
      onOpen={(open) => !open && onClose()}
    >
      <p className="text-ink-2">
        What is live is no longer what {change.title} set out from.{' '}
        {conflicts.length > 0
          ? 'Everything else is merged; say what holds here.'
          : 'Nothing of it collides with your edits.'}
      </p>
      <Told error={found.error ?? settle.error} />
      {conflicts.map((one) => (
        <fieldset key={`${one.key} ${one.kind} ${one.field}`} className="border-t border-hair py-2">
          <legend className="float-left w-full">
            <strong>{one.title}</strong>
            {one.field && <span className="text-ink-2">: {one.field}</span>}
          </legend>
          {(['ours', 'theirs'] as const).map((side) => (
            <label key={side} className="mr-6 inline-flex items-baseline gap-2">
              <input
                type="radio"
                name={`${one.key} ${one.kind} ${one.field}`}
                checked={choices[one.key] === side}
                onChange={() => setChoices((before) => ({ ...before, [one.key]: side }))}
              />
              {side === 'ours' ? 'in this change' : 'live'}: <strong>{one[side]}</strong>
            </label>
          ))}
        </fieldset>
      ))}
      <span className="flex justify-end">
        <Button tone="go" disabled={!settled || settle.isPending} onClick={() => settle.mutate()}>
          Set out from what is live
        </Button>
      </span>
    </Sheet>
  )
}
