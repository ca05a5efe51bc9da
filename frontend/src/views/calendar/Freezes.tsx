import { useMutation, useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { answered, client, type Schemas } from '../../api/client'
import { useAnew } from '../../api/keys'
import { sessionQuery, sitesQuery } from '../../api/queries'
import { Button } from '../../parts/Button'
import { Choice } from '../../parts/Choice'
import { MomentField } from '../../parts/DayField'
import { Input } from '../../parts/Input'
import { reading } from '../../parts/readings'
import { Told } from '../../parts/Told'

/** When nothing goes live, at one site or at all of them. */
export function Freezes({ freezes }: { freezes: readonly Schemas['FreezeOut'][] }) {
  const anew = useAnew()
  const may = useQuery(sessionQuery).data?.may_keys ?? false
  const sites = useQuery(sitesQuery).data ?? []
  const [asked, setAsked] = useState({ site: '', begins: '', ends: '', why: '' })
  const set = useMutation({
    mutationFn: () => answered(client.POST('/api/freezes', { body: { ...asked, site: asked.site || null } })),
    onSuccess: () => setAsked({ site: '', begins: '', ends: '', why: '' }),
    onSettled: () => anew.sites(),
  })
  const end = useMutation({
    mutationFn: (freeze: string) =>
      answered(client.DELETE('/api/freezes/{freeze}', { params: { path: { freeze } } })),
    onSettled: () => anew.sites(),
  })
  const put = (one: Partial<typeof asked>) => setAsked({ ...asked, ...one })
  return (
    <section aria-label="Freezes">
      <h2>When nothing goes live</h2>
      {freezes.length === 0 && <p className="text-ink-2">No freeze is set.</p>}
      <ul>
        {freezes.map((one) => (
          <li key={one.id} className="flex flex-wrap items-baseline gap-x-2 border-t border-hair py-1">
            <b>{one.why}</b>
            <span className="text-ink-2">
              {one.site_name ?? 'all sites'}, {reading(one.begins)} – {reading(one.ends)}
              {one.by && `, set by ${one.by}`}
            </span>
            {may && (
              <Button
                small
                tone="quiet"
                aria-label={`End the freeze ${one.why}`}
                disabled={end.isPending}
                onClick={() => end.mutate(one.id)}
              >
                end it
              </Button>
            )}
          </li>
        ))}
      </ul>
      <Told error={set.error ?? end.error} />
      {may && (
        <form
          aria-label="A freeze"
          className="mt-2 flex flex-wrap items-center gap-2 text-small"
          onSubmit={(event) => {
            event.preventDefault()
            set.mutate()
          }}
        >
          <Choice
            aria-label="At which site"
            value={asked.site}
            options={[['', 'all sites'], ...sites.map((one) => [one.key, one.name] as const)]}
            onChoose={(site) => put({ site })}
          />
          <span className="flex items-center gap-1">
            from <MomentField aria-label="From" value={asked.begins} onChange={(begins) => put({ begins })} />
          </span>
          <span className="flex items-center gap-1">
            to <MomentField aria-label="To" value={asked.ends} onChange={(ends) => put({ ends })} />
          </span>
          <Input
            aria-label="Why"
            placeholder="why"
            value={asked.why}
            maxLength={400}
            onChange={(event) => put({ why: event.target.value })}
            className="w-[180px]"
          />
          <Button
            small
            type="submit"
            disabled={!asked.begins || !asked.ends || !asked.why.trim() || set.isPending}
          >
            Freeze
          </Button>
        </form>
      )}
    </section>
  )
}
