import { useMutation } from '@tanstack/react-query'
import { useNavigate } from '@tanstack/react-router'
import { useState } from 'react'
import { answered, client } from '../../api/client'
import { useAnew } from '../../api/keys'
import { useLens } from '../../lens/useLens'
import { flatten } from '../../outline/tree'
import { labelOf, leadsTo } from '../../outline/words'
import { Button } from '../../parts/Button'
import { Choice } from '../../parts/Choice'
import { Input } from '../../parts/Input'
import { Mark } from '../../parts/Mark'
import { Tick } from '../../parts/Tick'
import { Told } from '../../parts/Told'
import type { ReadSite } from './readSite'

const ZONES = Intl.supportedValuesOf('timeZone')

/** What was read, beside what will be kept: the person looks, corrects and confirms. */
export function Proposal({ id, proposal }: { id: string; proposal: ReadSite }) {
  const lens = useLens()
  const anew = useAnew()
  const navigate = useNavigate()
  const [name, setName] = useState(proposal.name)
  const [key, setKey] = useState(proposal.key)
  const [zone, setZone] = useState(proposal.zone)
  const [secret, setSecret] = useState('')
  const [kept, setKept] = useState<ReadonlySet<string>>(new Set(proposal.menus.map((menu) => menu.key)))
  const confirm = useMutation({
    mutationFn: () =>
      answered(
        client.POST('/api/take-ins/{take_in_id}/confirm', {
          params: { path: { take_in_id: id } },
          body: { name, key, zone, menus: [...kept], ...(secret.trim() ? { secret } : {}) },
        }),
      ),
    onSuccess: async (done) => {
      await anew.sites()
      await navigate({ to: '/sites/$site', params: { site: done.site ?? key }, search: lens })
    },
  })
  const toggle = (menu: string) =>
    setKept((before) =>
      before.has(menu) ? new Set([...before].filter((one) => one !== menu)) : new Set([...before, menu]),
    )
  return (
    <div className="grid grid-cols-[minmax(0,1fr)_300px] gap-6">
      <section aria-label="Menus found">
        <h2 className="mb-2">
          {proposal.menus.length} menus, {proposal.pages.length} pages
        </h2>
        <div className="grid grid-cols-2 gap-3">
          {proposal.menus.map((menu) => (
            <FoundMenu
              key={menu.key}
              menu={menu}
              proposal={proposal}
              kept={kept.has(menu.key)}
              onToggle={() => toggle(menu.key)}
            />
          ))}
        </div>
        {proposal.menus.length === 0 && (
          <p className="text-ink-2">
            No navigation was found on its home page. Its pages can be kept all the same.
          </p>
        )}
      </section>
      <form
        aria-label="What will be kept"
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault()
          confirm.mutate()
        }}
      >
        <label className="text-small text-ink-2">
          Name
          <Input className="w-full" value={name} onChange={(event) => setName(event.target.value)} required />
        </label>
        <label className="text-small text-ink-2">
          Key, for addresses and commands
          <Input
            className="w-full mono"
            value={key}
            onChange={(event) => setKey(event.target.value)}
            required
          />
        </label>
        <label className="text-small text-ink-2">
          Its clock
          <Choice className="w-full" value={zone} onChoose={(value) => setZone(value)}>
            {[...new Set([zone, 'UTC', ...ZONES])].map((one) => (
              <option key={one}>{one}</option>
            ))}
          </Choice>
        </label>
        {proposal.connection === 'endpoint' ? (
          <label className="text-small text-ink-2">
            Signing key, from its back office
            <Input
              className="w-full mono"
              value={secret}
              onChange={(event) => setSecret(event.target.value)}
              placeholder="whsec_…"
            />
          </label>
        ) : (
          <p>
            <Mark kind="open">only looked at</Mark>
            <span className="block text-small text-ink-2">
              The site does not speak the site protocol: its menus can be edited here, but not put live.
            </span>
          </p>
        )}
        {proposal.notes.map((note) => (
          <p key={note} className="text-small break-words text-ink-2">
            {note}
          </p>
        ))}
        <Told error={confirm.error} />
        <Button type="submit" tone="go" disabled={confirm.isPending}>
          Put it on the shelf
        </Button>
      </form>
    </div>
  )
}

const LINES = 9

interface FoundProps {
  menu: ReadSite['menus'][number]
  proposal: ReadSite
  kept: boolean
  onToggle: () => void
}

function FoundMenu({ menu, proposal, kept, onToggle }: FoundProps) {
  const rows = flatten(menu.document.items ?? [], new Set())
  const hangs = proposal.placements
    .filter((one) => one.menu === menu.key)
    .map(
      (one) =>
        `${proposal.template.locations.find((place) => place.key === one.location)?.title ?? one.location}, ${one.device}`,
    )
  return (
    <article
      className={`rounded-sign border-[1.5px] bg-plate px-3 py-2 ${kept ? 'border-ink' : 'border-dashed border-ink-3 opacity-70'}`}
    >
      <h3 className="flex items-baseline gap-2 font-semibold">
        <Tick checked={kept} onTick={onToggle}>
          {menu.title}
        </Tick>
        <span className="ml-auto text-note font-normal text-ink-2">
          {rows.length} · {menu.where}
        </span>
      </h3>
      <p className="mb-1 truncate text-note text-ink-2">{hangs.join(' · ')}</p>
      <ul>
        {rows.slice(0, LINES).map((row) => (
          <li
            key={row.item.id}
            className="flex gap-2 truncate text-small"
            style={{ paddingLeft: (row.level - 1) * 14 }}
          >
            <span className="font-semibold">{labelOf(row.item, proposal.languages) || '—'}</span>
            <code className="truncate text-ink-2">{leadsTo(row.item)}</code>
          </li>
        ))}
      </ul>
      {rows.length > LINES && <p className="text-note text-ink-2">and {rows.length - LINES} more</p>}
    </article>
  )
}
