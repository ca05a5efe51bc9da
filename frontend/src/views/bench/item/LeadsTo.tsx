import { useQuery } from '@tanstack/react-query'
import { useId } from 'react'
import type { Schemas } from '../../../api/client'
import { listingQuery, vocabularyQuery } from '../../../api/queries'
import type { Choosing } from '../../../outline/Outline'
import type { Item } from '../../../outline/tree'
import { leadsTo } from '../../../outline/words'
import { Button } from '../../../parts/Button'
import { Choice } from '../../../parts/Choice'
import { DayField } from '../../../parts/DayField'
import { Input } from '../../../parts/Input'
import { Mark } from '../../../parts/Mark'
import { Line, type SetItem } from './line'
import { usePage } from './Says'

interface Props {
  item: Item
  site: Schemas['SitePage']
  menu: string
  hash: string
  language: string
  editable: boolean
  set: SetItem
  onChoosing: (choosing: Choosing) => void
}

/** Where the item leads, or what it fills itself with. */
export function LeadsTo(props: Props) {
  const { item, site, editable, set, onChoosing } = props
  return (
    <Line name={item.kind === 'listing' ? 'lists' : item.kind === 'include' ? 'includes' : 'leads to'}>
      <span className="flex items-baseline gap-2">
        <code className="truncate">{leadsTo(item)}</code>
        <GoalState site={site.key} item={item} />
        {editable && (
          <Button
            small
            onClick={(event) =>
              onChoosing({ id: item.id, anchor: event.currentTarget.getBoundingClientRect() })
            }
          >
            Choose
          </Button>
        )}
      </span>
      {item.kind === 'link' && 'pending' in item.target && (
        <PendingFields pending={item.target.pending} editable={editable} set={set} />
      )}
      {item.kind === 'link' && 'page' in item.target && (
        <PartField {...props} part={item.target.part ?? ''} />
      )}
      {item.kind === 'listing' && <ListFields {...props} list={item.list} />}
    </Line>
  )
}

function GoalState({ site, item }: { site: string; item: Item }) {
  const page = usePage(site, item)
  const vocabulary = useQuery({ ...vocabularyQuery(site), enabled: item.kind === 'opener' })
  if (item.kind === 'opener' && vocabulary.data) {
    const known = vocabulary.data.overlays.find((one) => one.key === item.target.overlay)
    return known ? (
      <Mark kind="ok">on {known.pages} pages</Mark>
    ) : (
      <Mark kind="stop">no page has this overlay</Mark>
    )
  }
  if (!page) return null
  return <Mark kind={page.state === 'published' ? 'ok' : 'stop'}>{page.state}</Mark>
}

/** A part of the page, out of those that were found on it. */
function PartField({ item, site, editable, set, part }: Props & { part: string }) {
  const page = usePage(site.key, item)
  if (!page || (page.parts.length === 0 && !part)) return null
  const gone = part !== '' && !page.parts.includes(part)
  return (
    <label className="mt-1 flex items-baseline gap-2 text-ink-2">
      at its part
      <Choice
        disabled={!editable}
        value={part}
        onChoose={(value) =>
          set(
            (before) =>
              ({
                ...before,
                target: { page: page.ref, ...(value && { part: value }) },
              }) as Item,
            'part',
          )
        }
      >
        <option value="">the whole page</option>
        {gone && <option value={part}>#{part}, which is not on it</option>}
        {page.parts.map((one) => (
          <option key={one} value={one}>
            #{one}
          </option>
        ))}
      </Choice>
      {gone && <Mark kind="stop">not on the page</Mark>}
    </label>
  )
}

function PendingFields(props: { pending: Schemas['Pending']; editable: boolean; set: SetItem }) {
  const { pending, editable, set } = props
  const id = useId()
  const change = (name: 'note' | 'owner' | 'due', value: string) =>
    set((before) => {
      if (before.kind !== 'link' || !('pending' in before.target)) return before
      const { [name]: _, ...others } = before.target.pending
      return { ...before, target: { pending: value ? { ...others, [name]: value } : others } }
    }, name)
  return (
    <span className="mt-1 grid gap-1">
      {(['note', 'owner', 'due'] as const).map((name) => (
        <span key={name} className="grid grid-cols-[48px_1fr] items-baseline text-ink-2">
          <label htmlFor={`${id}-${name}`}>{name}</label>
          {name === 'due' ? (
            <DayField
              id={`${id}-due`}
              disabled={!editable}
              value={pending.due ?? ''}
              onChange={(day) => change('due', day)}
            />
          ) : (
            <Input
              id={`${id}-${name}`}
              className="w-full"
              disabled={!editable}
              value={pending[name] ?? ''}
              onChange={(event) => change(name, event.target.value)}
            />
          )}
        </span>
      ))}
    </span>
  )
}

type ListQuery = Extract<Item, { kind: 'listing' }>['list']

const ORDERS = [
  ['inventory', 'as in the inventory'],
  ['title', 'alphabetical'],
  ['path', 'by address'],
  ['date', 'newest first'],
] as const

/** The query of a listing, and what it fills itself with now. */
function ListFields({ item, site, menu, hash, language, editable, set, list }: Props & { list: ListQuery }) {
  const vocabulary = useQuery(vocabularyQuery(site.key))
  const now = useQuery(listingQuery(site.key, menu, hash, list, language))
  const change = (name: keyof ListQuery, value: unknown) =>
    set((before) => {
      if (before.kind !== 'listing') return before
      const { [name]: _, ...others } = before.list
      return { ...before, list: value ? { ...others, [name]: value } : others } as Item
    }, `list-${name}`)
  const refs = (text: string) =>
    text
      .split(/[\s,]+/)
      .map((one) => one.replace(/^@/, ''))
      .filter(Boolean)
  return (
    <fieldset disabled={!editable} className="mt-1 grid grid-cols-[64px_1fr] items-baseline gap-1 text-ink-2">
      <label htmlFor={`${item.id}-type`}>type</label>
      <Choice id={`${item.id}-type`} value={list.type ?? ''} onChoose={(value) => change('type', value)}>
        <option value="">any</option>
        {list.type && !vocabulary.data?.types.some((one) => one.type === list.type) && (
          <option value={list.type}>{list.type}, of which there is none</option>
        )}
        {vocabulary.data?.types.map((one) => (
          <option key={one.type} value={one.type}>
            {one.type} ({one.pages})
          </option>
        ))}
      </Choice>
      <label htmlFor={`${item.id}-under`}>under</label>
      <Input
        id={`${item.id}-under`}
        className="w-full"
        placeholder="any page, or its reference"
        value={list.under ?? ''}
        onChange={(event) => change('under', refs(event.target.value)[0])}
      />
      <label htmlFor={`${item.id}-order`}>order</label>
      <Choice
        id={`${item.id}-order`}
        value={list.order ?? 'inventory'}
        onChoose={(value) => change('order', value === 'inventory' ? '' : value)}
      >
        {ORDERS.map(([value, says]) => (
          <option key={value} value={value}>
            {says}
          </option>
        ))}
      </Choice>
      <label htmlFor={`${item.id}-limit`}>at most</label>
      <Input
        id={`${item.id}-limit`}
        type="number"
        min={1}
        max={1000}
        className="w-full"
        value={list.limit ?? ''}
        onChange={(event) => change('limit', Math.min(1000, Math.max(0, event.target.valueAsNumber || 0)))}
      />
      <label htmlFor={`${item.id}-except`}>except</label>
      <Input
        key={`${list.except}`}
        id={`${item.id}-except`}
        className="w-full"
        placeholder="references, separated by commas"
        defaultValue={(list.except ?? []).join(', ')}
        onBlur={(event) => change('except', refs(event.target.value).length > 0 && refs(event.target.value))}
      />
      <label className="col-span-2 flex items-baseline gap-2 text-ink">
        <input
          type="checkbox"
          checked={list.rest ?? false}
          onChange={(event) => change('rest', event.target.checked)}
        />
        only the rest: not what a line of this menu leads to already
      </label>
      <p className="col-span-2 text-small" role="status">
        {now.data && (
          <>
            <b className="text-ink">fills itself with {now.data.count}</b>
            {now.data.count > 0 && ': '}
            {now.data.first
              .slice(0, 12)
              .map((page) => page.title)
              .join(', ')}
            {now.data.count > 12 && ' …'}
          </>
        )}
      </p>
    </fieldset>
  )
}
