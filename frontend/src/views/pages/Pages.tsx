import { useQuery } from '@tanstack/react-query'
import { Link, useParams } from '@tanstack/react-router'
import { useDeferredValue, useState } from 'react'
import type { Schemas } from '../../api/client'
import { inventoryQuery, pagesQuery, reachQuery, siteQuery } from '../../api/queries'
import { useMayEdit } from '../../app/useMayEdit'
import { DEVICES, type Device } from '../../lens/lens'
import { useLens } from '../../lens/useLens'
import { Button } from '../../parts/Button'
import { Empty } from '../../parts/Empty'
import { Input } from '../../parts/Input'
import { Mark } from '../../parts/Mark'
import { PageHead } from '../../parts/PageHead'
import { type Column, Table } from '../../parts/Table'
import { Trouble } from '../../parts/Trouble'
import { LeftOut } from './LeftOut'
import { NewPages } from './NewPages'
import { OnePage } from './OnePage'
import { Reading } from './Reading'
import { WhatChanged } from './WhatChanged'

/** The site's inventory: how far it is known, what came and what changed, and which menus lead to each page. */
export function Pages() {
  const { site } = useParams({ strict: false }) as { site: string }
  const [words, setWords] = useState('')
  const lens = useLens()
  const about = useQuery(siteQuery(site))
  const pages = useQuery(pagesQuery(site, useDeferredValue(words), 500, true))
  const reach = useQuery(reachQuery(site, lens)).data
  const steps = new Map(reach?.pages.map((page) => [page.ref, page.steps]))
  const known = useQuery(inventoryQuery(site)).data
  const editable = useMayEdit()
  const [opened, setOpened] = useState<string | null>(null)
  const [only, setOnly] = useState<Device | null>(null)
  const lacked = only && reach ? new Set(reach.lacking[only]) : null
  const listed = pages.data?.filter((page) => !lacked || lacked.has(page.ref)) ?? []
  const columns: Column<Schemas['PageOut']>[] = [
    {
      says: 'title',
      className: 'font-semibold',
      order: titleOf,
      cell: (page) => (
        <button
          type="button"
          className="min-h-6 text-left hover:underline"
          onClick={() => setOpened(page.ref)}
        >
          {titleOf(page)}
          {page.state !== 'published' && (
            <span className="ml-2 font-normal">
              <Mark kind="stop">{page.state}</Mark>
            </span>
          )}
        </button>
      ),
    },
    { says: 'address', className: 'mono text-ink-2', cell: (page) => page.path, order: (page) => page.path },
    { says: 'type', className: 'text-ink-2', cell: (page) => page.type, order: (page) => page.type },
    ...DEVICES.map((device) => ({
      says: device,
      said: true,
      room: 'pr-4 text-right',
      order: (page: Schemas['PageOut']) => steps.get(page.ref)?.[device] ?? Number.MAX_SAFE_INTEGER,
      cell: (page: Schemas['PageOut']) =>
        reach && page.state === 'published' && <Steps steps={steps.get(page.ref)?.[device] ?? null} />,
    })),
    {
      says: 'in menus',
      said: true,
      order: (page) => page.places.length,
      cell: (page) => (page.places.length ? page.places.join(', ') : <Mark kind="open">in no menu</Mark>),
    },
  ]
  return (
    <div className="max-w-[1100px] px-[18px] py-3.5">
      <PageHead
        names={['Pages', about.data?.name]}
        title={
          <>
            <Link to="/sites/$site" params={{ site }} search={lens} className="hover:underline">
              {about.data?.name ?? site}
            </Link>{' '}
            › Pages
          </>
        }
        beside={about.data?.pages}
      >
        <Input
          type="search"
          aria-label="Search pages by title, address or type"
          placeholder="title, address or type"
          value={words}
          onChange={(event) => setWords(event.target.value)}
          className="w-64 max-w-full"
        />
      </PageHead>
      <Trouble query={pages} />
      {known && <Reading site={site} known={known} editable={editable} />}
      {known && <NewPages site={site} pages={known.new} editable={editable} />}
      {known && <LeftOut site={site} pages={known.left_out} editable={editable} />}
      <WhatChanged site={site} onPage={setOpened} />
      <p className="mb-2 flex flex-wrap items-baseline gap-3 text-small text-ink-2">
        Choices from the home page, by device.
        {DEVICES.map((device) => {
          const count = reach?.lacking[device]?.length ?? 0
          return (
            count > 0 && (
              <Button
                key={device}
                small
                aria-pressed={only === device}
                onClick={() => setOnly(only === device ? null : device)}
              >
                {count} that a {device} lacks
              </Button>
            )
          )
        })}
      </p>
      <Table
        caption="Pages of the site"
        columns={columns}
        rows={pages.data && listed}
        keyOf={(page) => page.ref}
        empty={
          <Empty
            says={words || only ? 'No page answers to this.' : 'No pages were read from this site yet.'}
          />
        }
      />
      {opened && <OnePage site={site} page={opened} editable={editable} onClose={() => setOpened(null)} />}
    </div>
  )
}

const titleOf = (page: Schemas['PageOut']): string => Object.values(page.title)[0] ?? page.path

function Steps({ steps }: { steps: number | null }) {
  if (steps === null) return <Mark kind="stop">no way</Mark>
  return steps === 0 ? <span className="text-ink-2">home</span> : <span>{steps}</span>
}
