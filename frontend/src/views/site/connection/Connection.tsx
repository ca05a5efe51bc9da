import { useQuery } from '@tanstack/react-query'
import { Link, useParams } from '@tanstack/react-router'
import { useState } from 'react'
import { connectionQuery, sessionQuery, siteQuery } from '../../../api/queries'
import { type Kind, WAYS } from '../../../app/ways'
import { useLens } from '../../../lens/useLens'
import { Mark } from '../../../parts/Mark'
import { PageHead } from '../../../parts/PageHead'
import { Trouble } from '../../../parts/Trouble'
import { Waiting } from '../../../parts/Waiting'
import { SetUp } from './SetUp'

/** How a site gets its menus: the four ways, and each set up by trying it out first. */
export function Connection() {
  const { site: key } = useParams({ strict: false }) as { site: string }
  const lens = useLens()
  const site = useQuery(siteQuery(key))
  const known = useQuery(connectionQuery(key))
  const mayKeys = useQuery(sessionQuery).data?.may_keys ?? false
  const [chosen, setChosen] = useState<Kind | null>(null)
  if (!site.data || !known.data)
    return (
      <div className="px-[18px] py-3">
        <Trouble query={site.error ? site : known} />
        {!site.error && !known.error && <Waiting />}
      </div>
    )
  const now = known.data.kind
  const open = chosen ?? now
  return (
    <div className="px-[18px] py-3">
      <PageHead
        names={['How it gets its menus', site.data.name]}
        title={`How ${site.data.name} gets its menus`}
        beside={
          <Link to="/sites/$site" params={{ site: key }} search={lens} className="underline">
            back to the site
          </Link>
        }
      />
      <Trouble query={known} />
      <div className="grid grid-cols-[330px_minmax(0,1fr)] gap-x-6 max-lg:grid-cols-[minmax(0,1fr)] max-lg:gap-y-4">
        <ul aria-label="Ways" className="flex flex-col gap-1">
          {WAYS.map((way) => (
            <li key={way.kind}>
              <button
                type="button"
                aria-pressed={way.kind === open}
                onClick={() => setChosen(way.kind)}
                className="w-full rounded-sign px-3 py-2 text-left hover:bg-paper-2 aria-pressed:bg-plate aria-pressed:outline-[1.5px] aria-pressed:-outline-offset-1 aria-pressed:outline-ink"
              >
                <span className="flex items-baseline justify-between gap-3">
                  <b>{way.name}</b>
                  {way.kind === now && <Mark kind="ok">in use</Mark>}
                </span>
                <span className="block text-small text-ink-2">{way.needs}</span>
                <span className="block text-small text-ink-2">
                  <b>Verified:</b> {way.verified}
                </span>
              </button>
            </li>
          ))}
        </ul>
        <SetUp key={open} site={site.data} known={known.data} kind={open} mayKeys={mayKeys} />
      </div>
    </div>
  )
}
