import { useQuery } from '@tanstack/react-query'
import { Popover } from 'radix-ui'
import { useState } from 'react'
import type { Schemas } from '../../../api/client'
import { relationsQuery } from '../../../api/queries'
import type { Item } from '../../../outline/tree'
import { Button } from '../../../parts/Button'
import { Input } from '../../../parts/Input'
import { Mark } from '../../../parts/Mark'
import { Popup } from '../../../parts/Popup'
import { Tick } from '../../../parts/Tick'
import { Line, type SetItem } from './line'
import { NotShown } from './NotShown'

type LinkItem = Extract<Item, { kind: 'link' }>

interface Props {
  item: LinkItem
  site: Schemas['SitePage']
  editable: boolean
  set: SetItem
}

/** In which tab the link opens, and what it says of where it leads. */
export function Opens({ item, site, editable, set }: Props) {
  const rel = item.rel ?? []
  const usual = site.usual_outside
  const host = 'url' in item.target && URL.canParse(item.target.url) ? new URL(item.target.url).host : ''
  const outside = usual !== null && host !== '' && !usual.own_hosts.includes(host.toLowerCase())
  const asUsual =
    !outside || ((item.new_tab ?? false) === usual.new_tab && usual.rel.every((one) => rel.includes(one)))
  const put = (fields: Partial<LinkItem>, run: string) =>
    set((before) => {
      const { new_tab, rel: now, ...rest } = { ...(before as LinkItem), ...fields }
      return { ...rest, ...(new_tab && { new_tab }), ...(now?.length && { rel: now }) } as Item
    }, run)
  return (
    <Line name="opens">
      <span className="flex flex-wrap items-baseline gap-x-3">
        <Tick
          disabled={!editable}
          checked={item.new_tab ?? false}
          onTick={(checked) => put({ new_tab: checked }, 'tab')}
        >
          in a new tab
        </Tick>
        <Relations rel={rel} editable={editable} onChange={(next) => put({ rel: next }, 'rel')} />
      </span>
      <NotShown can={site.can} what="new-tab" set={item.new_tab ?? false} />
      {!asUsual && editable && (
        <span className="flex items-baseline gap-2">
          <Mark kind="stop">not as this site’s outside links are</Mark>
          <Button
            small
            tone="quiet"
            onClick={() => put({ new_tab: usual?.new_tab, rel: usual?.rel }, 'usual')}
          >
            do it that way
          </Button>
        </span>
      )}
    </Line>
  )
}

/** Registered relations, each with what it tells. */
function Relations(props: { rel: readonly string[]; editable: boolean; onChange: (rel: string[]) => void }) {
  const { rel, editable, onChange } = props
  const [words, setWords] = useState('')
  const known = useQuery(relationsQuery).data ?? []
  const unknown = rel.filter((one) => known.length > 0 && !known.some((relation) => relation.name === one))
  const wanted = words.toLowerCase()
  const shown = known
    .filter((one) => one.name.includes(wanted) || one.says.toLowerCase().includes(wanted))
    .sort((a, b) => Number(rel.includes(b.name)) - Number(rel.includes(a.name)))
  const toggle = (name: string) =>
    onChange(rel.includes(name) ? rel.filter((one) => one !== name) : [...rel, name])
  return (
    <Popover.Root onOpenChange={() => setWords('')}>
      <Popover.Trigger asChild>
        <Button small aria-label={`Relations: ${rel.join(', ') || 'none'}`}>
          rel {rel.join(', ') || 'none'}
        </Button>
      </Popover.Trigger>
      {unknown.length > 0 && <Mark kind="stop">{unknown.join(', ')} is not registered</Mark>}
      <Popup label="What the link says of where it leads" className="w-[420px]">
        <Input
          aria-label="Find a relation"
          placeholder="a relation, or what it should tell"
          className="w-full px-3! py-2!"
          value={words}
          onChange={(event) => setWords(event.target.value)}
        />
        <ul className="max-h-[300px] overflow-auto py-1">
          {shown.map((one) => (
            <li key={one.name}>
              <label className="grid grid-cols-[18px_116px_1fr_44px] items-baseline px-3 py-0.5 text-small hover:bg-dusk-ground">
                <input
                  type="checkbox"
                  disabled={!editable}
                  checked={rel.includes(one.name)}
                  onChange={() => toggle(one.name)}
                />
                <code className="truncate">{one.name}</code>
                <span>{one.says}</span>
                <small className="text-right text-ink-2">{one.source}</small>
              </label>
            </li>
          ))}
          {unknown.map((one) => (
            <li key={one} className="px-3 py-0.5">
              <label className="flex items-baseline gap-2 text-small">
                <input type="checkbox" disabled={!editable} checked onChange={() => toggle(one)} />
                <code>{one}</code> is registered with neither; browsers and search engines may not know it.
              </label>
            </li>
          ))}
        </ul>
      </Popup>
    </Popover.Root>
  )
}
