import { useQuery } from '@tanstack/react-query'
import { Link } from '@tanstack/react-router'
import { useState } from 'react'
import type { Schemas } from '../../api/client'
import { causeQuery } from '../../api/queries'
import { useMayEdit } from '../../app/useMayEdit'
import { useLens } from '../../lens/useLens'
import { Button } from '../../parts/Button'
import { Trouble } from '../../parts/Trouble'
import { when } from '../../parts/times'
import { Waiting } from '../../parts/Waiting'
import { entries, type Line } from './kinds'
import { MendAll } from './MendAll'
import { NOT_IN_HTML, PlainNavigation } from './PlainNavigation'
import { SeeTo } from './SeeTo'

const FIRST = 8

/** One cause: what was asked, everywhere it is found, and what can be done about it. */
export function OneCause({ line }: { line: Line }) {
  const about = useQuery(causeQuery(line.code, line.cause))
  const mayEdit = useMayEdit(true)
  const more = about.data
  return (
    <>
      <h2 className="text-head font-bold break-words">{line.says}</h2>
      {more && (
        <p className="mb-2 text-small text-ink-2">
          Found when {plain(more.when)}: {more.matters}.
        </p>
      )}
      <Trouble query={about} />
      {!more && !about.error && <Waiting />}
      {more && (
        <>
          {more.hops.length > 0 && <WhatWasAsked more={more} />}
          <Uses uses={more.uses} />
          {NOT_IN_HTML.includes(line.code) && more.uses[0]?.finding.location && (
            <PlainNavigation use={more.uses[0]} />
          )}
          {mayEdit && more.hows.length > 0 && <MendAll line={line} more={more} />}
          {mayEdit && <SeeTo line={line} people={more.people} />}
        </>
      )}
    </>
  )
}

/** Without what leads on to the documents, which are not at hand here. */
const plain = (words: string): string => words.replace(/ \(\[[^\]]*\]\([^)]*\)\)/g, '').replaceAll('`', '')

function WhatWasAsked({ more }: { more: Schemas['CauseOut'] }) {
  const [now, before] = more.history
  return (
    <section aria-label="What was asked" className="mb-3">
      <h3 className="font-bold text-ink-2">What was asked</h3>
      <table className="mono text-small">
        <tbody>
          {more.hops.map((hop) => (
            <tr key={hop.address}>
              <td className="pr-3 align-top">{hop.status ?? '–'}</td>
              <td className="break-all">{hop.address}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="text-small text-ink-2">
        {more.asked_at && `Asked ${when(more.asked_at)}`}
        {now && `; so since ${when(now.at)}`}
        {before && `, before that: ${before.says.replace(/\.$/, '').toLowerCase()}`}
      </p>
    </section>
  )
}

function Uses({ uses }: { uses: readonly Schemas['UseOut'][] }) {
  const [all, setAll] = useState(false)
  const lens = useLens()
  const listed = all ? uses : uses.slice(0, FIRST)
  return (
    <section aria-label="Where it is found" className="mb-3">
      <h3 className="font-bold text-ink-2">Where it is found</h3>
      <ul>
        {listed.map((use) => (
          <li key={`${use.site} ${use.menu} ${use.finding.item} ${use.finding.says}`} className="py-0.5">
            <Link
              to="/sites/$site"
              params={{ site: use.site }}
              search={{ ...lens, in: 'live' }}
              className="font-bold hover:underline"
            >
              {use.site_name}
            </Link>{' '}
            {use.menu ? (
              <Link
                to="/sites/$site/menus/$menu"
                params={{ site: use.site, menu: use.menu }}
                search={{ ...lens, in: undefined }}
                hash={use.finding.item ?? undefined}
                className="underline decoration-dashed underline-offset-4 hover:decoration-solid"
              >
                {use.menu_name ?? use.menu} <span className="mono">{use.finding.number}</span>
              </Link>
            ) : (
              <span className="text-ink-2">{use.finding.location ?? 'the whole site'}</span>
            )}{' '}
            <span className="text-small text-ink-2">
              {[use.finding.device, use.finding.audience, use.finding.language].filter(Boolean).join(', ')}
            </span>
          </li>
        ))}
      </ul>
      {uses.length > listed.length && (
        <Button small tone="quiet" onClick={() => setAll(true)}>
          and {entries(uses.length - listed.length)} more
        </Button>
      )}
    </section>
  )
}
