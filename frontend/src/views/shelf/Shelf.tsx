import { useQuery } from '@tanstack/react-query'
import { Link, useNavigate, useSearch } from '@tanstack/react-router'
import { useDeferredValue, useMemo, useState } from 'react'
import type { Schemas } from '../../api/client'
import { awayQuery, sessionQuery, shelfQuery } from '../../api/queries'
import { readShelf } from '../../app/shelf'
import { useLens } from '../../lens/useLens'
import { Input } from '../../parts/Input'
import { PageHead } from '../../parts/PageHead'
import { Trouble } from '../../parts/Trouble'
import { WorkerAway } from '../../parts/WorkerAway'
import { Boards } from './Boards'
import { Chips } from './Chips'
import { KeptViews } from './KeptViews'
import { useShelf } from './useShelf'

/** From as many sites on one looks for a site by its name. */
const MANY = 12

export function Shelf() {
  const lens = useLens()
  const session = useQuery(sessionQuery)
  const shelf = useQuery(shelfQuery(lens.in))
  const at = readShelf(useSearch({ strict: false }))
  const [words, setWords] = useState(at.find ?? '')
  const sought = useDeferredValue(words)
  const navigate = useNavigate()
  // A view that is kept brings its words along.
  const [came, setCame] = useState(at.find)
  if (came !== at.find) {
    setCame(at.find)
    if (at.find !== words.trim()) setWords(at.find ?? '')
  }
  const all = useMemo(() => named(shelf.data ?? [], sought), [shelf.data, sought])
  const { shown: lines, counts, under } = useShelf(all, at.show, at.order)
  const many = (shelf.data?.length ?? 0) > MANY
  return (
    <div className="px-[18px] py-3.5">
      <PageHead
        names={['Shelf']}
        beside={
          shelf.data && (
            <>
              {sought || at.show ? `${lines.length} of ` : ''}
              {shelf.data.length} {shelf.data.length === 1 ? 'site' : 'sites'} ·{' '}
              {shelf.data.filter((line) => line.change).length} with a draft
            </>
          )
        }
      >
        {many && (
          <Input
            type="search"
            aria-label="Find a site"
            placeholder="find a site"
            value={words}
            onChange={(event) => {
              setWords(event.target.value)
              event.target.closest('main')?.scrollTo({ top: 0 })
              const find = event.target.value.trim() || undefined
              void navigate({ to: '.', replace: true, search: (before: object) => ({ ...before, find }) })
            }}
            className="w-[180px]"
          />
        )}
        {session.data?.may_edit && (
          <Link
            to="/take-in"
            search={lens}
            className="rounded-sign border border-ink bg-plate px-2 py-px text-small font-semibold hover:bg-paper-2"
          >
            Take in a site
          </Link>
        )}
      </PageHead>
      <Trouble query={shelf} />
      <WorkerAway />
      {(shelf.data?.length ?? 0) > 1 && <Chips at={at} counts={counts} />}
      {many && <KeptViews at={at} />}
      {shelf.data?.length === 0 && (
        <p className="mt-16 text-center text-head text-ink-2">
          The shelf is empty. <strong className="text-ink">Take in a site</strong> to read its pages and
          menus.
        </p>
      )}
      {sought && lines.length === 0 && (
        <p className="mt-16 text-center text-head text-ink-2">No site's name or key has “{sought}” in it.</p>
      )}
      {at.show && !sought && shelf.data && lines.length === 0 && (
        <p className="mt-16 text-center text-head text-ink-2">No site answers to this any more.</p>
      )}
      <Boards
        key={at.dense ? 'dense' : 'boards'}
        lines={lines}
        dense={at.dense ?? false}
        under={under}
        reports={at.order === 'by client'}
      />
      <PutAway />
    </div>
  )
}

/** What is put away is never silently gone. */
function PutAway() {
  const lens = useLens()
  const away = useQuery(awayQuery).data ?? []
  if (away.length === 0) return null
  return (
    <p className="mt-4 flex flex-wrap gap-x-3 text-small text-ink-2">
      {away.length === 1 ? '1 site is put away:' : `${away.length} sites are put away:`}
      {away.map((one) => (
        <Link key={one.key} to="/sites/$site" params={{ site: one.key }} search={lens} className="underline">
          {one.name}
        </Link>
      ))}
    </p>
  )
}

/** Those whose name or key holds every word. */
function named(lines: Schemas['ShelfLine'][], words: string): Schemas['ShelfLine'][] {
  const sought = words.toLocaleLowerCase().split(/\s+/).filter(Boolean)
  if (sought.length === 0) return lines
  return lines.filter((line) => {
    const told = `${line.name} ${line.key}`.toLocaleLowerCase()
    return sought.every((word) => told.includes(word))
  })
}
