import { keepPreviousData, useMutation, useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { answered, client, type Schemas } from '../api/client'
import { worksElsewhere } from '../api/inside'
import { useAnew } from '../api/keys'
import { conflictsQuery, settlingQuery } from '../api/queries'
import { useLens } from '../lens/useLens'
import { SideTrees } from '../outline/SideTrees'
import { Button } from '../parts/Button'
import { Sheet } from '../parts/Sheet'
import { type Choices, Sides } from '../parts/Sides'
import { Told } from '../parts/Told'

interface Props {
  site: string
  change: Schemas['ChangeName']
  onClose: () => void
}

/** Something else went live since the change set out: it sets out from that, once what both changed is settled. */
export function SettleChange({ site, change, onClose }: Props) {
  const anew = useAnew()
  const language = useLens().language ?? ''
  const found = useQuery(conflictsQuery(site, change.id))
  const [choices, setChoices] = useState<Choices>({})
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
  const drawn = useQuery({
    ...settlingQuery(site, change.id, choices),
    enabled: conflicts.some((one) => one.menu),
    placeholderData: keepPreviousData,
  })
  const settled = found.isSuccess && conflicts.every((one) => choices[one.key])
  return (
    <Sheet
      title="Live has moved on"
      className="w-[860px] gap-3 overflow-auto p-6"
      onOpen={(open) => !open && onClose()}
    >
      <p className="text-ink-2">
        What is live is no longer what {change.title} set out from.{' '}
        {conflicts.length > 0
          ? 'Everything else is merged; say what holds here.'
          : 'Nothing of it collides with your edits.'}
      </p>
      <Told error={found.error ?? settle.error} />
      <Sides
        collisions={conflicts}
        names={{ ours: 'in this change', theirs: 'live' }}
        both
        choices={choices}
        onChoose={setChoices}
      />
      {drawn.data?.map((one) => (
        <SideTrees
          key={one.menu}
          names={{ ours: `${one.result?.name ?? one.menu}, in this change`, theirs: 'live' }}
          ours={one.ours?.items ?? []}
          theirs={one.theirs?.items ?? []}
          result={one.result?.items ?? []}
          language={language}
        />
      ))}
      <span className="flex justify-end">
        <Button tone="go" disabled={!settled || settle.isPending} onClick={() => settle.mutate()}>
          Set out from what is live
        </Button>
      </span>
    </Sheet>
  )
}
