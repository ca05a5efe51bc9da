import { useInfiniteQuery, useQuery } from '@tanstack/react-query'
import { Link } from '@tanstack/react-router'
import { useState } from 'react'
import type { Schemas } from '../../api/client'
import { type LedgerAsked, ledgerQuery, sitesQuery } from '../../api/queries'
import { useLens } from '../../app/useLens'
import { Button } from '../../parts/Button'
import { Trouble } from '../../parts/Trouble'
import { when } from '../../parts/times'
import { useTitle } from '../../parts/useTitle'

/** What is told, by what people ask for. */
const KINDS: Record<string, readonly string[]> = {
  'edits of menus': ['edit', 'create menu', 'menu', 'take back'],
  'places and looks': ['hang', 'take down', 'look', 'switch', 'drift'],
  'put live': ['put live', 'live', 'release failed'],
  changes: ['change'],
  'sites and keys': ['take in', 'connect'],
  'people and setup': ['account', 'facts', 'template', 'font'],
}
const LINE = 'border-b-[1.5px] border-ink-3 bg-transparent text-ink'

/** Who did what, newest first, as far back as one reads; each line leads to what it tells of. */
export function Ledger() {
  useTitle('Ledger')
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
  const narrowed = kind !== '' || Object.values(asked).some(Boolean)
  return (
    <div className="max-w-[980px] px-[18px] py-3.5">
      <h1 className="mb-2">Ledger</h1>
      <p className="mb-2 flex flex-wrap items-baseline gap-x-3 gap-y-1 text-[13px] text-ink-2">
        <Choice says="what" value={kind} none="everything" options={Object.keys(KINDS)} onChoose={setKind} />
        <Choice
          says="by"
          value={asked.who ?? ''}
          none="anybody"
          options={people}
          onChoose={(who) => ask({ who: who || undefined })}
        />
        <Choice
          says="at"
          value={asked.site ?? ''}
          none="any site"
          options={sites.map((one) => one.key)}
          called={(key) => sites.find((one) => one.key === key)?.name ?? key}
          onChoose={(site) => ask({ site: site || undefined })}
        />
        <label className="flex items-baseline gap-1.5">
          on
          <input
            type="date"
            aria-label="Day"
            value={asked.day ?? ''}
            onChange={(event) => ask({ day: event.target.value || undefined })}
            className={LINE}
          />
        </label>
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
      <table className="stacks w-full text-left">
        <caption className="sr-only">Who did what, newest first</caption>
        <thead className="text-[12px] text-ink-2">
          <tr>
            <th scope="col" className="w-32 py-1 font-normal">
              when
            </th>
            <th scope="col" className="w-36 font-normal">
              who
            </th>
            <th scope="col" className="w-32 font-normal">
              site
            </th>
            <th scope="col" className="font-normal">
              what
            </th>
          </tr>
        </thead>
        <tbody>
          {lines.map((line) => (
            <tr key={line.id} className="border-t border-hair align-baseline">
              <td className="mono py-1.5 text-ink-2">{when(line.at)}</td>
              <td>{line.person ?? 'the shelf'}</td>
              <td className="text-ink-2">
                {line.site && (
                  <Link
                    to="/sites/$site"
                    params={{ site: line.site }}
                    search={lens}
                    className="hover:underline"
                  >
                    {line.site}
                  </Link>
                )}
              </td>
              <td>
                <Says line={line} />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {ledger.isSuccess && lines.length === 0 && (
        <p className="text-ink-2">Nothing was done that answers to this.</p>
      )}
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
  if (!line.site || !line.menu) return line.says
  return (
    <Link
      to="/sites/$site/menus/$menu"
      params={{ site: line.site, menu: line.menu }}
      search={lens}
      className="hover:underline"
    >
      {line.says}
    </Link>
  )
}

interface ChoiceProps {
  says: string
  value: string
  none: string
  options: readonly string[]
  called?: (value: string) => string
  onChoose: (value: string) => void
}

function Choice({ says, value, none, options, called, onChoose }: ChoiceProps) {
  return (
    <label className="flex items-baseline gap-1.5">
      {says}
      <select
        aria-label={says}
        value={value}
        onChange={(event) => onChoose(event.target.value)}
        className="chosen bg-transparent"
      >
        <option value="">{none}</option>
        {options.map((one) => (
          <option key={one} value={one}>
            {called?.(one) ?? one}
          </option>
        ))}
      </select>
    </label>
  )
}
