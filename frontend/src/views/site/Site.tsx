import { useQuery } from '@tanstack/react-query'
import { Link, useParams } from '@tanstack/react-router'
import { useState } from 'react'
import { sessionQuery, siteQuery } from '../../api/queries'
import { pageOwner } from '../../api/session'
import { useAct } from '../../app/acts'
import { PutLive } from '../../app/PutLive'
import { SyncMark } from '../../app/SyncMark'
import { useMayEdit } from '../../app/useMayEdit'
import { usePutLive } from '../../app/usePutLive'
import { wayOf } from '../../app/ways'
import { languageName } from '../../lens/lens'
import { useLens } from '../../lens/useLens'
import { saveLeftovers } from '../../outline/saver'
import { Button } from '../../parts/Button'
import { andJoined } from '../../parts/joined'
import { Mark } from '../../parts/Mark'
import { PageHead } from '../../parts/PageHead'
import { Trouble } from '../../parts/Trouble'
import { ago, siteClock } from '../../parts/times'
import { Abilities } from './Abilities'
import { Elevation } from './Elevation'
import { HangingTable } from './HangingTable'
import { LookEditor } from './LookEditor'
import { unmatched } from './SettingLists'
import { Settings } from './Settings'
import { SideBySide } from './SideBySide'
import { SiteDraft } from './SiteDraft'
import { SiteKeys } from './SiteKeys'
import { SwitchTemplate } from './SwitchTemplate'
import { TakeOut } from './TakeOut'
import { ThroughTheYear } from './ThroughTheYear'
import { Tray } from './Tray'

type Open = { sheet: 'look' | 'devices'; location: string } | { sheet: 'switch' | 'settings' } | null

/** A site: its page drawn to scale, which menu hangs in which place on which device, and what hangs nowhere. */
export function Site() {
  const { site: key } = useParams({ strict: false }) as { site: string }
  const lens = useLens()
  const site = useQuery(siteQuery(key))
  const session = useQuery(sessionQuery)
  const [open, setOpen] = useState<Open>(null)
  const live = usePutLive(key)
  const mayEdit = useMayEdit()
  useAct('Settings of the site', site.data ? () => setOpen({ sheet: 'settings' }) : null)
  useAct('Try another template', site.data ? () => setOpen({ sheet: 'switch' }) : null)
  if (!site.data) return <Trouble query={site} />
  const found = site.data
  const close = () => setOpen(null)
  return (
    <div className="flex min-h-full flex-col px-[18px] py-3">
      <Trouble query={site} />
      {found.archived_at && (
        <p role="status" className="mb-2 bg-signal-ground px-3 py-1.5">
          <Mark kind="open">put away {ago(found.archived_at)}</Mark>: visitors go on getting what is live; it
          is edited again once it is taken out, in its settings.
        </p>
      )}
      <PageHead
        names={[found.name]}
        beside={
          <>
            <a href={found.base} target="_blank" rel="noopener noreferrer" className="mono underline">
              {found.base.replace(/^https?:\/\/|\/$/g, '')}
            </a>{' '}
            · {siteClock(found.zone)} · template {found.template} {found.template_version} ·{' '}
            {found.languages.map(languageName).join(', ')} ·{' '}
            <Link
              to="/sites/$site/pages"
              params={{ site: key }}
              search={lens}
              data-ahead
              className="underline"
            >
              {found.pages} pages
            </Link>
          </>
        }
      >
        {found.change && <SiteDraft site={found} editable={mayEdit} />}
        {found.change && mayEdit && (
          <PutLive
            site={found}
            live={live}
            disabled={false}
            flush={() => saveLeftovers(pageOwner() ?? '', key)}
          />
        )}
        <SyncMark site={found} />
        <TakeOut site={key} />
        <Button small onClick={() => setOpen({ sheet: 'settings' })}>
          Settings
        </Button>
        <Button small onClick={() => setOpen({ sheet: 'switch' })}>
          Try another template
        </Button>
      </PageHead>
      {unmatched(found).length > 0 && (
        <p role="status" className="mb-2 flex flex-wrap items-baseline gap-2">
          <Mark kind="stop">the site has no {andJoined(unmatched(found))}</Mark>
          {mayEdit && (
            <Button small onClick={() => setOpen({ sheet: 'settings' })}>
              Say what it calls them
            </Button>
          )}
        </p>
      )}
      <div className="flex flex-wrap gap-x-8">
        <Abilities site={found} mayAsk={mayEdit} />
        <SiteKeys site={found} mayEdit={mayEdit} mayKeys={session.data?.may_keys ?? false} />
        <p className="mb-2 text-small text-ink-2">
          {wayOf(found.connection).name}.{' '}
          {mayEdit && (
            <Link to="/sites/$site/connection" params={{ site: key }} search={lens} className="underline">
              how it gets its menus
            </Link>
          )}
        </p>
      </div>
      <div className="grid min-h-[560px] flex-1 grid-cols-[minmax(0,1fr)_minmax(0,1.06fr)] gap-5 max-lg:grid-cols-[minmax(0,1fr)] max-lg:grid-rows-[480px_auto]">
        <Elevation site={found} />
        <div className="min-w-0">
          <h2>What hangs where</h2>
          <HangingTable
            site={found}
            editable={mayEdit}
            more={(location) => (
              <span className="flex gap-2 text-note font-normal">
                <More says="look" onClick={() => setOpen({ sheet: 'look', location: location.key })} />
                <More says="devices" onClick={() => setOpen({ sheet: 'devices', location: location.key })} />
                {location.shape !== 'section' && (
                  <Link
                    to="/sites/$site/audiences/$location"
                    params={{ site: key, location: location.key }}
                    search={lens}
                    className="text-ink-2 underline decoration-dashed underline-offset-4 hover:text-ink"
                  >
                    audiences
                  </Link>
                )}
              </span>
            )}
            tray={<Tray site={found} editable={mayEdit} />}
          />
          <ThroughTheYear site={found} />
        </div>
      </div>
      {open?.sheet === 'look' && (
        <LookEditor site={found} location={open.location} editable={mayEdit} onClose={close} />
      )}
      {open?.sheet === 'devices' && <SideBySide site={found} location={open.location} onClose={close} />}
      {open?.sheet === 'settings' && (
        <Settings site={found} editable={session.data?.may_keys ?? false} onClose={close} />
      )}
      {open?.sheet === 'switch' && <SwitchTemplate site={found} editable={mayEdit} onClose={close} />}
    </div>
  )
}

function More({ says, onClick }: { says: string; onClick: () => void }) {
  return (
    <button
      type="button"
      onClick={onClick}
      className="text-ink-2 underline decoration-dashed underline-offset-4 hover:text-ink"
    >
      {says}
    </button>
  )
}
