import { useMutation } from '@tanstack/react-query'
import { useRef, useState } from 'react'
import { answered, client, type Schemas } from '../../api/client'
import { useAnew } from '../../api/keys'
import { Button } from '../../parts/Button'
import { Sheet } from '../../parts/Sheet'
import { type Choices, type Side, Sides } from '../../parts/Sides'
import { Told } from '../../parts/Told'

interface Props {
  change: Schemas['OpenChangeOut']
  /** The sites at which something that went live since builds on it. */
  meets: Schemas['UndoMeetsOut'][]
  onClose: () => void
}

/** Something that went live since builds on what is undone: for each it is chosen what holds, site by site. */
export function UndoMeets({ change, meets, onClose }: Props) {
  const anew = useAnew()
  const [chosen, setChosen] = useState<Record<string, Choices>>({})
  /** Where it is on its way already, when one of the others fails and it is tried again. */
  const begun = useRef(new Set<string>())
  const elsewhere = change.sites
    .filter((site) => site.live_at && !site.over_at && !meets.some((one) => one.site === site.key))
    .map((site) => site.key)
  const undo = useMutation({
    mutationFn: async () => {
      for (const site of [...meets.map((one) => one.site), ...elsewhere]) {
        if (begun.current.has(site)) continue
        await answered(
          client.POST('/api/changes/{change}/undo', {
            params: { path: { change: change.id } },
            body: { site, choices: (chosen[site] ?? {}) as Record<string, Side> },
          }),
        )
        begun.current.add(site)
      }
    },
    onSuccess: onClose,
    onSettled: () => anew.sites(),
  })
  const settled = meets.every((at) => at.conflicts.every((one) => chosen[at.site]?.[one.key]))
  return (
    <Sheet
      title={`Undo ${change.title}`}
      className="w-[680px] gap-3 overflow-auto p-6"
      onOpen={(open) => !open && onClose()}
    >
      <p className="text-ink-2">
        Something that went live since builds on it. Everything else comes back as it was; say what holds
        here.
      </p>
      <Told error={undo.error} />
      {meets.map((at) => (
        <section key={at.site} aria-label={at.site_name}>
          <h3 className="font-bold">{at.site_name}</h3>
          <Sides
            collisions={at.conflicts}
            names={{ ours: 'live now', theirs: 'before' }}
            choices={chosen[at.site] ?? {}}
            onChoose={(change_) =>
              setChosen((before) => ({ ...before, [at.site]: change_(before[at.site] ?? {}) }))
            }
          />
        </section>
      ))}
      <span className="flex justify-end">
        <Button tone="go" disabled={!settled || undo.isPending} onClick={() => undo.mutate()}>
          Undo it so
        </Button>
      </span>
    </Sheet>
  )
}
