import { useMutation, useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { answered, client, type Schemas } from '../../api/client'
import { keys, useAnew } from '../../api/keys'
import { templatesQuery } from '../../api/queries'
import { Button } from '../../parts/Button'
import { Choice } from '../../parts/Choice'
import { Empty } from '../../parts/Empty'
import { Mark } from '../../parts/Mark'
import { Scrolled } from '../../parts/Scrolled'
import { Sheet } from '../../parts/Sheet'
import { type Column, Table } from '../../parts/Table'
import { Told } from '../../parts/Told'

interface Props {
  site: Schemas['SitePage']
  editable: boolean
  onClose: () => void
}

type Matches = Record<string, string | null>

/** What would happen to the site on another template, before anything does; then the move, as part of the draft. */
export function SwitchTemplate({ site, editable, onClose }: Props) {
  const anew = useAnew()
  const offers = useQuery(templatesQuery)
  const [chosen, setChosen] = useState<Schemas['Offer'] | null>(null)
  const [matches, setMatches] = useState<Matches>({})
  const body = { template: chosen?.key ?? '', version: chosen?.version ?? 1, matches }
  const path = { site: site.key }
  const report = useQuery({
    queryKey: keys.site(site.key, 'switch', body),
    enabled: chosen !== null,
    queryFn: () => answered(client.POST('/api/sites/{site}/switch/report', { params: { path }, body })),
    placeholderData: (before) => before,
  })
  const move = useMutation({
    mutationFn: () => answered(client.POST('/api/sites/{site}/switch', { params: { path }, body })),
    onSuccess: async () => {
      await anew.site(site.key)
      onClose()
    },
  })
  const current = (one: Schemas['Offer']) =>
    one.key === site.template_key && one.version === site.template_version
  return (
    <Sheet
      title={`${site.name} on another template`}
      onOpen={(open) => !open && onClose()}
      className="h-[700px] w-[1120px] grid-cols-[330px_1fr] grid-rows-[auto_1fr] gap-x-5 gap-y-3 p-5"
      beside={
        <span className="ml-auto flex items-baseline gap-2">
          {chosen && editable && (
            <Button
              small
              tone="go"
              disabled={!report.data?.fits || move.isPending}
              onClick={() => move.mutate()}
            >
              Move the site, in its draft
            </Button>
          )}
          <Button small onClick={onClose}>
            Close
          </Button>
        </span>
      }
    >
      <Scrolled label="Templates" className="border-r border-hair pr-4">
        <ul>
          {offers.data?.map((one) => (
            <li key={`${one.key} ${one.version}`}>
              <button
                type="button"
                disabled={current(one)}
                aria-pressed={chosen === one}
                onClick={() => {
                  setChosen(one)
                  setMatches({})
                }}
                className={`block w-full border-b border-hair px-2 py-2 text-left disabled:opacity-60 ${chosen === one ? 'rounded-sign shadow-[inset_0_0_0_1.5px_var(--ink)]' : ''}`}
              >
                <b>{one.title}</b> <span className="text-ink-2">version {one.version}</span>
                {current(one) && <span className="ml-2 text-small">where the site is now</span>}
                <span className="block text-small text-ink-2">
                  {one.locations} places: {one.shapes.join(', ')} · {one.deepest} levels at most
                </span>
                <span className="block text-small text-ink-2">
                  phone: {one.phone.join(', ') || 'nothing'}
                  {one.fixed.length > 0 && ` · stays: ${one.fixed.join(', ')}`}
                  {one.unreadable.length > 0 && ` · by script: ${one.unreadable.join(', ')}`}
                </span>
                {one.used_by.length > 0 && (
                  <span className="block text-small text-ink-2">used by {one.used_by.join(', ')}</span>
                )}
              </button>
            </li>
          ))}
        </ul>
      </Scrolled>
      <Scrolled label="What would happen" className="">
        <Told error={offers.error ?? report.error ?? move.error} />
        {!chosen && (
          <p className="text-ink-2">Choose a template to see what would happen. Nothing is changed by it.</p>
        )}
        {chosen && report.data && (
          <Report
            told={report.data}
            onMatch={(old, to) => setMatches({ ...matches, [old]: to })}
            widthsOf={site.device_widths}
          />
        )}
      </Scrolled>
    </Sheet>
  )
}

const BY = {
  key: 'same key',
  shape: 'same shape',
  title: 'like title',
  'by hand': 'by hand',
  none: '',
} as const

function Report(props: {
  told: Schemas['SwitchOut']
  onMatch: (old: string, to: string | null) => void
  widthsOf: Schemas['SitePage']['device_widths']
}) {
  const { told } = props
  const hanging = told.kept.filter((one) => one.menus.some(({ menu }) => menu))
  const homeless = hanging.filter((one) => !one.to)
  const columns: Column<Schemas['KeptOut']>[] = [
    {
      says: 'today',
      head: true,
      room: 'pr-2',
      className: 'font-semibold',
      cell: (one) => (
        <>
          {one.title}
          <span className="block text-note font-normal text-ink-2">
            {one.menus.map(({ device, menu }) => `${menu ?? 'none'} (${device})`).join(', ') ||
              'nothing hangs'}
          </span>
        </>
      ),
    },
    {
      says: 'there',
      said: true,
      room: 'pr-3',
      cell: (one) => (
        <>
          <Choice
            aria-label={`Where ${one.title} goes`}
            value={one.to ?? ''}
            onChoose={(value) => props.onMatch(one.location, value || null)}
            className="max-w-[170px]"
            options={[['', 'nowhere'], ...told.choices.map(({ key, title }) => [key, title] as const)]}
          />
          <span className="block text-note text-ink-2">{BY[one.by]}</span>
        </>
      ),
    },
    { says: 'what happens', className: 'text-small', cell: (one) => <Happens one={one} /> },
  ]
  return (
    <>
      <p>
        {hanging.length - homeless.length} of {hanging.length} hung places keep a place.{' '}
        {homeless.length > 0 && <Mark kind="stop">{homeless.length} would hang nowhere</Mark>}{' '}
        {!told.fits && (
          <Mark kind="stop">something does not fit; match it by hand or change its menu first</Mark>
        )}
      </p>
      <Table
        caption="Where each place goes"
        className="mt-2 text-body"
        columns={columns}
        rows={told.kept}
        keyOf={(one) => one.location}
        empty={<Empty says="This template has no places." />}
      />
      <h2 className="mt-4">Besides</h2>
      <ul className="list-disc pl-5 text-body">
        {told.widths.map((one) => (
          <li key={one.device}>
            {one.device}: {range(one.before)} becomes {range(one.after)}
          </li>
        ))}
        {told.empty.length > 0 && (
          <li>
            Nothing would hang in{' '}
            {told.choices
              .filter(({ key }) => told.empty.includes(key))
              .map(({ title }) => title)
              .join(', ')}
            .
          </li>
        )}
        {told.widths.length === 0 && told.empty.length === 0 && (
          <li>Widths stay, and every place is filled.</li>
        )}
      </ul>
    </>
  )
}

const range = (one: Schemas['Widths'] | null) => (one ? `${one.low}–${one.high ?? '∞'} px` : 'does not exist')

function Happens({ one }: { one: Schemas['KeptOut'] }) {
  const deep = one.too_deep[0]
  const refused = one.kinds_refused[0]
  const says = [
    deep && `${one.too_deep.length} too deep: ${deep.item} ${deep.says}`,
    refused && `${one.kinds_refused.length} refused: ${refused.item}, ${refused.says}`,
  ].filter(Boolean)
  const soft = [
    one.devices_lost.length > 0 && `no longer on ${one.devices_lost.join(', ')}`,
    one.folds,
    !one.to && one.menus.some(({ menu }) => menu) && 'its menus would hang nowhere',
  ].filter(Boolean)
  if (says.length + soft.length === 0) return <Mark kind="ok">keeps its place</Mark>
  return (
    <>
      {says.map((text) => (
        <span key={String(text)} className="block">
          <Mark kind="stop">{text}</Mark>
        </span>
      ))}
      {soft.map((text) => (
        <span key={String(text)} className="block">
          <Mark kind="open">{text}</Mark>
        </span>
      ))}
    </>
  )
}
