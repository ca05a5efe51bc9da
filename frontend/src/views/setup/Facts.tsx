import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { factsQuery, sitesQuery } from '../../api/queries'
import { Button } from '../../parts/Button'
import { FactsEditor, type Scope } from './FactsEditor'

/** What is known of visitors: each site's own facts, and sets that several sites share. */
export function Facts({ editable }: { editable: boolean }) {
  const sites = useQuery(sitesQuery).data ?? []
  const shared =
    useQuery({ ...factsQuery(sites[0]?.key ?? ''), enabled: sites.length > 0 }).data?.shared ?? []
  const [open, setOpen] = useState<Scope | null>(null)
  return (
    <section aria-label="Facts and audiences" className="mt-8">
      <h2>Facts and audiences</h2>
      <ul className="text-body">
        {sites.map((one) => (
          <li key={one.key} className="flex items-baseline justify-between border-t border-hair py-1">
            {one.name}
            <Button
              small
              aria-label={`Facts of ${one.name}`}
              onClick={() => setOpen({ kind: 'site', key: one.key, name: one.name })}
            >
              {editable ? 'Change' : 'Look'}
            </Button>
          </li>
        ))}
        {shared.map((one) => (
          <li key={one.key} className="flex items-baseline justify-between border-t border-hair py-1">
            <span>
              {one.known.title}{' '}
              <span className="text-note text-ink-2">
                shared · {one.followers.join(', ') || 'no site follows it'}
              </span>
            </span>
            <Button
              small
              aria-label={`Facts of ${one.known.title}`}
              onClick={() => setOpen({ kind: 'set', key: one.key, known: one.known, hash: one.hash })}
            >
              {editable ? 'Change' : 'Look'}
            </Button>
          </li>
        ))}
      </ul>
      {editable && (
        <Button
          small
          className="mt-2"
          onClick={() => setOpen({ kind: 'set', key: null, known: { title: 'Shared facts' } })}
        >
          Begin a shared set
        </Button>
      )}
      {open && <FactsEditor scope={open} editable={editable} onClose={() => setOpen(null)} />}
    </section>
  )
}
