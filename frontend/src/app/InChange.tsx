import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useNavigate } from '@tanstack/react-router'
import { DropdownMenu } from 'radix-ui'
import { useEffect, useState } from 'react'
import { answered, client, type Schemas } from '../api/client'
import { worksElsewhere } from '../api/inside'
import { changesQuery, siteQuery } from '../api/queries'
import { when } from '../parts/times'
import { useAct } from './acts'
import { BeginChange } from './BeginChange'
import { SettleChange } from './SettleChange'
import { useLens } from './useLens'
import { useMayEdit } from './useMayEdit'

const OVER = ['live', 'withdrawn', 'undone']
const OPTION =
  'cursor-pointer rounded-xs px-3 py-1 outline-none data-[highlighted]:bg-dusk-ground data-[state=checked]:font-bold'

/** The change in which one looks at a site, and works: named, switched, begun; or the site as it is live. */
export function InChange({ site }: { site: string }) {
  const lens = useLens()
  const navigate = useNavigate()
  const queries = useQueryClient()
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
      await queries.invalidateQueries()
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
      <DropdownMenu.Root>
        <DropdownMenu.Trigger className="chosen max-w-[220px] truncate px-px" aria-label={`Change: ${says}`}>
          {says}
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content
            align="start"
            sideOffset={6}
            className="z-40 max-w-[460px] rounded-sign border border-ink bg-plate p-1 shadow-lg"
          >
            <DropdownMenu.RadioGroup value={change?.id ?? 'live'} onValueChange={choose}>
              <DropdownMenu.RadioItem value="live" className={OPTION}>
                as live
                <span className="ml-2 font-normal text-ink-2">what visitors get</span>
              </DropdownMenu.RadioItem>
              {changes.map((one) => (
                <DropdownMenu.RadioItem key={one.id} value={one.id} className={OPTION}>
                  {one.title}
                  <span className="ml-2 font-normal text-ink-2">{about(one)}</span>
                </DropdownMenu.RadioItem>
              ))}
            </DropdownMenu.RadioGroup>
            {mayEdit && (
              <>
                <DropdownMenu.Separator className="my-1 border-t border-hair" />
                <DropdownMenu.Item onSelect={() => setSheet('begin')} className={OPTION}>
                  begin another change …
                </DropdownMenu.Item>
              </>
            )}
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
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
      {sheet === 'begin' && <BeginChange site={site} onClose={() => setSheet(null)} />}
      {sheet === 'settle' && change && (
        <SettleChange site={site} change={change} onClose={() => setSheet(null)} />
      )}
    </>
  )
}

function about(change: Schemas['ChangeLine']): string {
  const state = change.state === 'draft' ? '' : `${change.state}, `
  return `${state}${change.author ? `by ${change.author}, ` : ''}begun ${when(change.created_at)}`
}
