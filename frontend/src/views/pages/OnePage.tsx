import { useQuery } from '@tanstack/react-query'
import { Link } from '@tanstack/react-router'
import type { ReactNode } from 'react'
import { useChosen } from '../../api/chosen'
import { answered, client, type Schemas } from '../../api/client'
import { useAnew } from '../../api/keys'
import { withoutQuery } from '../../api/queries'
import { languageName } from '../../lens/lens'
import { useLens } from '../../lens/useLens'
import { Button } from '../../parts/Button'
import { DayField } from '../../parts/DayField'
import { written } from '../../parts/days'
import { andJoined } from '../../parts/joined'
import { Mark } from '../../parts/Mark'
import { Sheet } from '../../parts/Sheet'
import { Told } from '../../parts/Told'
import { when } from '../../parts/times'
import { Waiting } from '../../parts/Waiting'

interface Props {
  site: string
  page: string
  editable: boolean
  onClose: () => void
}

/** One page: when it was seen, until when it is there, and what goes with it. */
export function OnePage({ site, page, editable, onClose }: Props) {
  const lens = useLens()
  const anew = useAnew()
  const found = useQuery(withoutQuery(site, page, lens))
  const end = useChosen(
    (ends: string | null) =>
      answered(
        client.PUT('/api/sites/{site}/inventory/pages/{ref}/ends', {
          params: { path: { site, ref: page } },
          body: { ends },
        }),
      ),
    () => anew.site(site),
  )
  const told = found.data
  return (
    <Sheet
      title={told ? (Object.values(told.page.title)[0] ?? told.page.path) : 'Page'}
      className="w-[860px] grid-rows-[auto_minmax(0,1fr)] gap-3 p-5"
      onOpen={(open) => !open && onClose()}
      beside={
        <span className="ml-auto">
          <Button small onClick={onClose}>
            Close
          </Button>
        </span>
      }
    >
      <div className="min-h-0 overflow-auto">
        <Told error={found.error ?? end.error} />
        {!told && !found.error && <Waiting />}
        {told && (
          <div className="grid grid-cols-[minmax(0,1fr)_minmax(0,1.4fr)] gap-x-6 gap-y-3 max-md:grid-cols-1">
            <Known page={told.page}>
              <dt>is there until</dt>
              <dd>
                {editable ? (
                  <DayField
                    aria-label="The day from which on it is not there"
                    value={(end.isPending ? end.value : told.page.ends) ?? ''}
                    onChange={(day) => end.choose(day || null)}
                  />
                ) : told.page.ends ? (
                  written(told.page.ends)
                ) : (
                  'no end is planned'
                )}
                <span className="block text-note text-ink-2">
                  From that day on its entries show to nobody; a site that keeps its own menus learns of it
                  when the menu goes live the next time.
                </span>
              </dd>
            </Known>
            <Goes site={site} told={told} />
          </div>
        )}
      </div>
    </Sheet>
  )
}

const STATES: Record<Schemas['SightingOut']['state'], ReactNode> = {
  published: <Mark kind="ok">there for visitors</Mark>,
  hidden: <Mark kind="stop">not shown to visitors</Mark>,
  draft: <Mark kind="waiting">a draft</Mark>,
  gone: <Mark kind="stop">gone</Mark>,
}

function Known({ page, children }: { page: Schemas['SightingOut']; children: ReactNode }) {
  const others = Object.keys(page.alternates).filter((one) => one !== page.language)
  return (
    <dl className="grid grid-cols-[92px_minmax(0,1fr)] content-start gap-x-3 gap-y-1.5 text-small [&_dt]:text-ink-2">
      <dt>address</dt>
      <dd className="mono break-all">{page.path}</dd>
      <dt>state</dt>
      <dd>{STATES[page.state]}</dd>
      <dt>seen</dt>
      <dd>
        {page.seen_at ? when(page.seen_at) : 'when the site was taken in'}
        {page.asked_at && page.status !== null && `; answered ${page.status} on ${when(page.asked_at)}`}
      </dd>
      <dt>kind</dt>
      <dd>
        {page.type}
        {page.language && `, in ${languageName(page.language)}`}
        {others.length > 0 && `; also in ${andJoined(others.map(languageName))}`}
        {page.noindex && <span className="block">asks search engines to leave it out</span>}
      </dd>
      {page.parts.length > 0 && (
        <>
          <dt>parts</dt>
          <dd className="mono break-words">{page.parts.map((part) => `#${part}`).join(' ')}</dd>
        </>
      )}
      {children}
    </dl>
  )
}

/** What the site loses with it. */
function Goes({ site, told }: { site: string; told: Schemas['WithoutOut'] }) {
  const lens = useLens()
  return (
    <section aria-label="What if this page goes">
      <h3 className="font-bold">What if this page goes</h3>
      {told.entries.length === 0 ? (
        <p className="text-ink-2">No menu leads there: no entry goes with it.</p>
      ) : (
        <ul className="text-small" aria-label="Entries that lead there">
          {told.entries.map((one) => (
            <li key={`${one.menu} ${one.item}`} className="border-t border-hair py-1 first:border-0">
              <Link
                to="/sites/$site/menus/$menu"
                params={{ site, menu: one.menu }}
                search={lens}
                className="font-semibold hover:underline"
              >
                {one.number} {one.label}
              </Link>{' '}
              <span className="text-ink-2">
                in {one.menu_name}
                {one.lists && ', which lists it by itself'}
                {one.opens && `, from ${written(one.opens)}`}
                {one.closes && `, until ${written(one.closes)}`}
              </span>
            </li>
          ))}
        </ul>
      )}
      {told.had_by.length > 0 && (
        <ul className="mt-2 text-small" aria-label="Who gets it">
          {told.had_by.map((one) => (
            <li key={`${one.location} ${one.device}`} className="py-0.5">
              {one.title} on a {one.device}: <span className="text-ink-2">{andJoined(one.audiences)}</span>
            </li>
          ))}
        </ul>
      )}
      {told.below.length > 0 && (
        <p className="mt-2 text-small">
          It stands above {andJoined(told.below.slice(0, 8))}
          {told.below.length > 8 && ` and ${told.below.length - 8} more`}.
        </p>
      )}
      {told.cut_off.map((one) => (
        <p key={one.device} className="mt-2 text-small">
          <Mark kind="stop">on a {one.device}</Mark> nobody gets any more to{' '}
          {andJoined(one.pages.slice(0, 8))}
          {one.pages.length > 8 && ` and ${one.pages.length - 8} more`}.
        </p>
      ))}
    </section>
  )
}
