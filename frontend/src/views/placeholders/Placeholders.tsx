import { useMutation, useQuery } from '@tanstack/react-query'
import { Link } from '@tanstack/react-router'
import { useState } from 'react'
import { answered, client, type Schemas } from '../../api/client'
import { useAnew } from '../../api/keys'
import { placeholdersQuery, sessionQuery } from '../../api/queries'
import { useLens } from '../../lens/useLens'
import { Button } from '../../parts/Button'
import { Choice } from '../../parts/Choice'
import { written } from '../../parts/days'
import { Empty } from '../../parts/Empty'
import { Mark } from '../../parts/Mark'
import { PageHead } from '../../parts/PageHead'
import { Told } from '../../parts/Told'
import { Trouble } from '../../parts/Trouble'
import { Waiting } from '../../parts/Waiting'

type Placeholder = Schemas['PlaceholderOut']
type Fits = NonNullable<Placeholder['fits']>

const NOBODY = 'nobody'
const ownerOf = (one: Placeholder): string => one.owner ?? NOBODY
const nameOf = (one: Placeholder): string => `${one.site} ${one.menu} ${one.item}`

/** Entries that lead nowhere yet, as work: under whoever owes them, what is due first at the top. */
export function Placeholders() {
  const lens = useLens()
  const found = useQuery(placeholdersQuery)
  const [site, setSite] = useState('')
  const [owner, setOwner] = useState('')
  const [led, setLed] = useState<{ one: Placeholder; to: Fits; change: string } | null>(null)
  const anew = useAnew()
  const lead = useMutation({
    mutationFn: ({ one, to }: { one: Placeholder; to: Fits }) =>
      answered(
        client.POST('/api/placeholders/lead', {
          body: { site: one.site, menu: one.menu, item: one.item, page: to.ref },
        }),
      ),
    onSuccess: (done, { one, to }) => setLed({ one, to, change: done.change }),
    onSettled: (_, __, { one }) => anew.site(one.site),
  })
  const person = useQuery(sessionQuery).data
  const all = found.data ?? []
  const owners = [...new Set(all.map(ownerOf))].sort((a, b) =>
    a === NOBODY ? 1 : b === NOBODY ? -1 : a.localeCompare(b),
  )
  const listed = all.filter((one) => (!site || one.site === site) && (!owner || ownerOf(one) === owner))
  const sites = new Map(all.map((one) => [one.site, one.site_name]))
  const late = all.filter((one) => one.late).length
  return (
    <div className="max-w-[1160px] px-[18px] py-3.5">
      <PageHead names={['Placeholders']} beside={found.data && `${all.length}`} />
      <Trouble query={found} />
      {!found.data && !found.error && <Waiting />}
      <p className="mb-2 flex flex-wrap items-baseline gap-x-3 gap-y-1 text-small text-ink-2">
        <span>
          Entries that lead nowhere yet: nobody gets them until they do.
          {late > 0 && (
            <>
              {' '}
              <Mark kind="stop">{late} overdue</Mark>
            </>
          )}
        </span>
        <label className="ml-auto flex items-baseline gap-1">
          owed by
          <Choice value={owner} onChoose={setOwner} options={[['', 'anybody'], ...owners]} />
        </label>
        <label className="flex items-baseline gap-1">
          for
          <Choice value={site} onChoose={setSite} options={[['', 'any client'], ...sites.entries()]} />
        </label>
      </p>
      {led && (
        <p role="status" className="mb-2 text-small">
          <Mark kind="ok">{led.one.label}</Mark> leads to {led.to.title} now, in{' '}
          <Link
            to="/sites/$site/menus/$menu"
            params={{ site: led.one.site, menu: led.one.menu }}
            search={{ ...lens, in: led.change }}
            className="underline"
          >
            your change of {led.one.site_name}
          </Link>
          ; live once that is.
        </p>
      )}
      <Told error={lead.error} />
      {found.data && listed.length === 0 && (
        <Empty says={all.length > 0 ? 'None answers to this.' : 'Every entry leads somewhere.'} />
      )}
      {owners
        .map((name) => ({ name, mine: listed.filter((one) => ownerOf(one) === name) }))
        .filter(({ mine }) => mine.length > 0)
        .map(({ name, mine }) => (
          <section key={name} aria-label={`Owed by ${name}`} className="mb-4">
            <h2 className="border-b border-edge pb-0.5">
              {name} <span className="text-small font-normal text-ink-2">{mine.length}</span>
            </h2>
            <ul>
              {mine.map((one) => (
                <li
                  key={nameOf(one)}
                  className="grid grid-cols-[118px_minmax(0,1fr)_minmax(0,1fr)] items-baseline gap-x-4 border-b border-hair py-1.5 max-md:grid-cols-1"
                >
                  <Due one={one} />
                  <span className="min-w-0">
                    <Link
                      to="/sites/$site/menus/$menu"
                      params={{ site: one.site, menu: one.menu }}
                      search={lens}
                      hash={one.item}
                      className="font-semibold hover:underline"
                    >
                      {one.label}
                    </Link>{' '}
                    <span className="text-small text-ink-2">
                      {one.number} in {one.menu_name}, {one.site_name}
                      {!one.live && ', not live'}
                    </span>
                    {one.note && <span className="block text-small">{one.note}</span>}
                  </span>
                  <Fit
                    one={one}
                    editable={person?.may_edit_at[one.site] ?? person?.may_edit ?? false}
                    busy={lead.isPending}
                    onLead={(to) => lead.mutate({ one, to })}
                  />
                </li>
              ))}
            </ul>
          </section>
        ))}
    </div>
  )
}

function Due({ one }: { one: Placeholder }) {
  if (!one.due) return <span className="text-small text-ink-2">no day</span>
  return (
    <Mark kind={one.late ? 'stop' : 'next'}>{one.late ? `since ${written(one.due)}` : written(one.due)}</Mark>
  )
}

interface FitProps {
  one: Placeholder
  editable: boolean
  busy: boolean
  onLead: (to: Fits) => void
}

/** The page that fits it, where there is one. */
function Fit({ one, editable, busy, onLead }: FitProps) {
  const { fits } = one
  if (!fits) return <span className="text-small text-ink-2">no page fits it yet</span>
  return (
    <span className="flex flex-wrap items-baseline gap-x-3 text-small">
      <span className="min-w-0 flex-1">
        {fits.title} <span className="mono text-ink-2">{fits.path}</span>{' '}
        <span className="block text-ink-2">{fits.because}</span>
      </span>
      {editable && (
        <Button
          small
          disabled={busy}
          aria-label={`Lead ${one.label} to ${fits.title}`}
          onClick={() => onLead(fits)}
        >
          Lead it there
        </Button>
      )}
    </span>
  )
}
