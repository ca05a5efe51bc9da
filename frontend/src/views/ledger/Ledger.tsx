import { useInfiniteQuery, useQuery } from '@tanstack/react-query'
import { Link } from '@tanstack/react-router'
import { useState } from 'react'
import type { Schemas } from '../../api/client'
import { type LedgerAsked, ledgerAsked, ledgerQuery, sitesQuery } from '../../api/queries'
import { useLens } from '../../lens/useLens'
import { Button } from '../../parts/Button'
import { Choice } from '../../parts/Choice'
import { DayField } from '../../parts/DayField'
import { Empty } from '../../parts/Empty'
import { PageHead } from '../../parts/PageHead'
import { type Column, Table } from '../../parts/Table'
import { Trouble } from '../../parts/Trouble'
import { when } from '../../parts/times'

/** What is told, by what people ask for. */
const KINDS: Record<string, readonly string[]> = {
  'edits of menus': ['edit', 'create menu', 'menu', 'take back'],
  'places and looks': ['hang', 'take down', 'look', 'switch', 'drift'],
  'put live': ['put live', 'live', 'release failed'],
  changes: ['change', 'review'],
  'moments and freezes': ['schedule', 'missed', 'freeze'],
  'sites and keys': ['take in', 'connect'],
  'people and setup': ['account', 'facts', 'template', 'font'],
}

/** What is asked for, behind an address. */
function addressed(path: string, asked: LedgerAsked): string {
  const query = new URLSearchParams()
  for (const [name, value] of Object.entries(ledgerAsked(asked)))
    for (const one of [value ?? []].flat()) query.append(name, String(one))
  return `${path}?${query}`
}

/** Who did what, newest first, as far back as one reads; each line leads to what it tells of. */
export function Ledger() {
  const lens = useLens()
  const [kind, setKind] = useState('')
  const [asked, setAsked] = useState<LedgerAsked>({})
  const sites = useQuery(sitesQuery).data ?? []
  const ledger = useInfiniteQuery(ledgerQuery({ ...asked, action: KINDS[kind] }))
  const lines = ledger.data?.pages.flat() ?? []
  const people = [
    ...new Set([...(asked.who ? [asked.who] : []), ...lines.flatMap((line) => line.person ?? [])]),
  ]
  const ask = (more: LedgerAsked) => setAsked((before) => ({ ...before, ...more }))
  const columns: Column<Schemas['LedgerOut']>[] = [
    { says: 'when', room: 'w-32', className: 'mono text-ink-2', cell: (line) => when(line.at) },
    { says: 'who', room: 'w-36', cell: (line) => line.person ?? 'the shelf' },
    {
      says: 'site',
      room: 'w-48',
      className: 'text-ink-2',
      cell: (line) =>
        line.site && (
          <Link
            to="/sites/$site"
            params={{ site: line.site }}
            search={lens}
            className="inline-block leading-6 hover:underline"
          >
            {sites.find((one) => one.key === line.site)?.name ?? line.site}
          </Link>
        ),
    },
    { says: 'what', cell: (line) => <Says line={line} /> },
  ]
  const narrowed = kind !== '' || Object.values(asked).some(Boolean)
  return (
    <div className="max-w-[980px] px-[18px] py-3.5">
      <PageHead names={['Ledger']} />
      <p className="mb-2 flex flex-wrap items-baseline gap-x-3 gap-y-1 text-small text-ink-2">
        <Narrowed
          says="what"
          value={kind}
          none="everything"
          options={Object.keys(KINDS)}
          onChoose={setKind}
        />
        <Narrowed
          says="by"
          value={asked.who ?? ''}
          none="anybody"
          options={people}
          onChoose={(who) => ask({ who: who || undefined })}
        />
        <Narrowed
          says="at"
          value={asked.site ?? ''}
          none="any site"
          options={sites.map((one) => one.key)}
          called={(key) => sites.find((one) => one.key === key)?.name ?? key}
          onChoose={(site) => ask({ site: site || undefined })}
        />
        <span className="flex items-baseline gap-1.5">
          on
          <DayField
            aria-label="Day"
            value={asked.day ?? ''}
            onChange={(day) => ask({ day: day || undefined })}
          />
        </span>
        <span className="ml-auto flex gap-3">
          take it out as
          {(['csv', 'jsonl'] as const).map((form) => (
            <a
              key={form}
              href={addressed(`/api/ledger/export/${form}`, { ...asked, action: KINDS[kind] })}
              download
              className="underline"
            >
              {form === 'csv' ? 'CSV' : 'JSON lines'}
            </a>
          ))}
        </span>
        {narrowed && (
          <Button
            small
            tone="quiet"
            onClick={() => {
              setKind('')
              setAsked({})
            }}
          >
            all of it
          </Button>
        )}
      </p>
      <Trouble query={ledger} />
      <Table
        caption="Who did what, newest first"
        columns={columns}
        rows={ledger.data ? lines : undefined}
        keyOf={(line) => line.id}
        empty={
          <Empty says={narrowed ? 'Nothing was done that answers to this.' : 'Nothing was done here yet.'} />
        }
      />
      {ledger.hasNextPage && (
        <p className="py-3">
          <Button disabled={ledger.isFetchingNextPage} onClick={() => void ledger.fetchNextPage()}>
            {ledger.isFetchingNextPage ? 'Reading on …' : 'Read on'}
          </Button>
        </p>
      )}
    </div>
  )
}

function Says({ line }: { line: Schemas['LedgerOut'] }) {
  const lens = useLens()
  if (line.change && !line.menu)
    return (
      <Link
        to="/changes"
        search={{ ...lens, change: line.change }}
        title={line.why || undefined}
        className="inline-block leading-6 hover:underline"
      >
        {line.says}
      </Link>
    )
  if (!line.site || !line.menu) return line.says
  return (
    <Link
      to="/sites/$site/menus/$menu"
      params={{ site: line.site, menu: line.menu }}
      search={lens}
      className="inline-block leading-6 hover:underline"
    >
      {line.says}
    </Link>
  )
}

interface NarrowedProps {
  says: string
  value: string
  none: string
  options: readonly string[]
  called?: (value: string) => string
  onChoose: (value: string) => void
}

function Narrowed({ says, value, none, options, called, onChoose }: NarrowedProps) {
  return (
    <label className="flex items-baseline gap-1.5">
      {says}
      <Choice aria-label={says} value={value} onChoose={(value) => onChoose(value)}>
        <option value="">{none}</option>
        {options.map((one) => (
          <option key={one} value={one}>
            {called?.(one) ?? one}
          </option>
        ))}
      </Choice>
    </label>
  )
}
