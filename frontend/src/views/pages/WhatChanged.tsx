import { useQuery } from '@tanstack/react-query'
import { useMemo, useState } from 'react'
import type { Schemas } from '../../api/client'
import { pageNewsQuery } from '../../api/queries'
import { Choice } from '../../parts/Choice'
import { written } from '../../parts/days'
import { andJoined } from '../../parts/joined'
import { Mark, type MarkKind } from '../../parts/Mark'
import { when } from '../../parts/times'

type News = Schemas['NewsOut']
type Kind = News['kind']

const KINDS: Record<Kind, { says: string; mark: MarkKind }> = {
  new: { says: 'new', mark: 'next' },
  moved: { says: 'moved', mark: 'waiting' },
  gone: { says: 'gone', mark: 'stop' },
  unpublished: { says: 'no longer shown', mark: 'stop' },
  back: { says: 'came back', mark: 'ok' },
  changed: { says: 'changed', mark: 'open' },
}
const SINCE = [
  ['monday', 'Monday'],
  ['7', '7 days ago'],
  ['30', '30 days ago'],
  ['365', 'a year ago'],
] as const

function beginning(since: string): string {
  const day = new Date()
  day.setHours(0, 0, 0, 0)
  day.setDate(day.getDate() - (since === 'monday' ? (day.getDay() + 6) % 7 : Number(since)))
  return day.toISOString()
}

/** What came to differ on the site, and which menus lead there. */
export function WhatChanged({ site, onPage }: { site: string; onPage: (ref: string) => void }) {
  const [since, setSince] = useState('monday')
  const [open, setOpen] = useState(false)
  const from = useMemo(() => beginning(since), [since])
  const news = useQuery(pageNewsQuery(site, from)).data ?? []
  const counts = (Object.keys(KINDS) as Kind[])
    .map((kind) => ({ kind, count: news.filter((one) => one.kind === kind).length }))
    .filter(({ count }) => count > 0)
  return (
    <section aria-label="What changed on the site" className="mb-3">
      <p className="text-small">
        <button
          type="button"
          aria-expanded={open}
          onClick={() => setOpen(!open)}
          className="min-h-6 font-semibold hover:underline"
        >
          <span aria-hidden="true">{open ? '▾' : '▸'}</span> What changed on the site
        </button>{' '}
        since <Choice aria-label="Since when" value={since} options={SINCE} onChoose={setSince} />:{' '}
        <span className="text-ink-2">
          {counts.length
            ? counts.map(({ kind, count }) => `${count} ${KINDS[kind].says}`).join(', ')
            : 'nothing'}
        </span>
      </p>
      <ul className="mt-1" hidden={!open}>
        {news.map((one) => (
          <li
            key={`${one.version} ${one.ref}`}
            className="grid grid-cols-[116px_minmax(0,1fr)_minmax(0,1fr)] items-baseline gap-x-3 border-t border-hair py-1 text-small max-md:grid-cols-1"
          >
            <Mark kind={KINDS[one.kind].mark}>{KINDS[one.kind].says}</Mark>
            <span className="min-w-0">
              <button type="button" className="font-semibold hover:underline" onClick={() => onPage(one.ref)}>
                {one.title}
              </button>{' '}
              <span className="mono break-all text-ink-2">
                {one.was ? `${one.was} → ${one.path}` : one.path}
              </span>
              {(one.because || one.differs.length > 0) && (
                <span className="block text-ink-2">{one.because || one.differs.join('; ')}</span>
              )}
            </span>
            <span className="text-ink-2">
              {one.menus.length > 0 ? `in ${andJoined(one.menus)}` : 'in no menu'} · {when(one.at)}
              <BearsOn what={one.bears_on} />
            </span>
          </li>
        ))}
      </ul>
    </section>
  )
}

/** Where and for whom visitors have it, or would have it if it were there, and when that begins and ends. */
function BearsOn({ what }: { what: Schemas['BearsOnOut'] }) {
  const dates = what.windows.map(({ opens, closes }) =>
    [opens && `from ${written(opens)}`, closes && `until ${written(closes)}`].filter(Boolean).join(' '),
  )
  if (what.places.length + dates.length === 0) return null
  return (
    <span className="block">
      {what.places.length > 0 && `${andJoined(what.places)}, for ${andJoined(what.audiences)}`}
      {dates.length > 0 && `${what.places.length > 0 ? '; ' : ''}${andJoined(dates)}`}
    </span>
  )
}
