import { useMutation, useQuery } from '@tanstack/react-query'
import { useNavigate } from '@tanstack/react-router'
import { lazy, Suspense, useEffect, useState } from 'react'
import { answered, client, type Schemas } from '../api/client'
import { worksElsewhere } from '../api/inside'
import { useAnew } from '../api/keys'
import { changesQuery, siteQuery } from '../api/queries'
import { useLens } from '../lens/useLens'
import { Menu, MenuAct, MenuChoices, MenuLine } from '../parts/Menu'
import { when } from '../parts/times'
import { useAct } from './acts'
import { useMayEdit } from './useMayEdit'

const BeginChange = lazy(() => import('./BeginChange').then((one) => ({ default: one.BeginChange })))
const SettleChange = lazy(() => import('./SettleChange').then((one) => ({ default: one.SettleChange })))

const OVER = ['live', 'withdrawn', 'undone']

/** The change in which one looks at a site, and works: named, switched, begun; or the site as it is live. */
export function InChange({ site }: { site: string }) {
  const lens = useLens()
  const navigate = useNavigate()
  const anew = useAnew()
  const mayEdit = useMayEdit(true)
  const found = useQuery(siteQuery(site)).data
  const changes = useQuery(changesQuery(site)).data ?? []
  const [sheet, setSheet] = useState<'begin' | 'settle' | null>(null)
  const change = found?.change ?? null
  const look = (inside: string | undefined) =>
    navigate({ to: '.', search: (before: object) => ({ ...before, in: inside }) })
  const work = useMutation({
    mutationFn: (change: string) =>
      answered(client.PUT('/api/sites/{site}/work', { params: { path: { site } }, body: { change } })),
    onSuccess: async () => {
      await look(undefined)
      worksElsewhere()
      await anew.site(site)
    },
  })
  const over = lens.in !== undefined && lens.in !== 'live' && change !== null && OVER.includes(change.state)
  useEffect(() => {
    // What one looked in is live by now, or over: one sees what is live, until one edits.
    if (over)
      void navigate({ to: '.', search: (before: object) => ({ ...before, in: undefined }), replace: true })
  }, [over, navigate])
  useAct('Begin another change', mayEdit && found ? () => setSheet('begin') : null)
  useAct('Look as live', change ? () => void look('live') : null)
  if (!found) return null
  const choose = (value: string) => {
    if (value === 'live') void look('live')
    else if (mayEdit) work.mutate(value)
    else void look(value)
  }
  const says = change ? change.title : 'as live'
  const behind = changes.find((one) => one.id === change?.id)?.behind ?? false
  return (
    <>
      {change && 'in'}
      <Menu
        align="start"
        button={
          <button
            type="button"
            className="chosen max-w-[220px] truncate px-px"
            aria-label={`Change: ${says}`}
          >
            {says}
          </button>
        }
      >
        <MenuChoices
          value={change?.id ?? 'live'}
          onChoose={choose}
          options={[
            { value: 'live', says: 'as live', note: 'what visitors get' },
            ...changes.map((one) => ({ value: one.id, says: one.title, note: about(one) })),
          ]}
        />
        {mayEdit && (
          <>
            <MenuLine />
            <MenuAct onAct={() => setSheet('begin')}>begin another change …</MenuAct>
          </>
        )}
      </Menu>
      {change && behind && (
        <button type="button" className="chosen px-px text-signal" onClick={() => setSheet('settle')}>
          live has moved on
        </button>
      )}
      {work.error && (
        <span role="alert" className="truncate text-signal" title={work.error.message}>
          {work.error.message}
        </span>
      )}
      {sheet === 'begin' && (
        <Suspense>
          <BeginChange site={site} onClose={() => setSheet(null)} />
        </Suspense>
      )}
      {sheet === 'settle' && change && (
        <Suspense>
          <SettleChange site={site} change={change} onClose={() => setSheet(null)} />
        </Suspense>
      )}
    </>
  )
}

function about(change: Schemas['ChangeLine']): string {
  const state = change.state === 'draft' ? '' : `${change.state}, `
  return `${state}${change.author ? `by ${change.author}, ` : ''}begun ${when(change.created_at)}`
}
