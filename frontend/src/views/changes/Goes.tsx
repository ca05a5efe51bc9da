import { useMutation, useQuery } from '@tanstack/react-query'
import { Link } from '@tanstack/react-router'
import { useState } from 'react'
import { answered, client, Refused, type Schemas } from '../../api/client'
import { useAnew } from '../../api/keys'
import { syncQuery } from '../../api/queries'
import { useLens } from '../../lens/useLens'
import { Button } from '../../parts/Button'
import { Choice } from '../../parts/Choice'
import { MomentField } from '../../parts/DayField'
import { Mark } from '../../parts/Mark'
import { reading } from '../../parts/readings'
import { Told } from '../../parts/Told'
import { when } from '../../parts/times'
import { EveryYear } from './EveryYear'
import { UndoMeets } from './UndoMeets'

type Change = Schemas['OneChangeOut']
type Kind = Schemas['ScheduleOut']['kind']
type Deed = Change['can'][number]

const KINDS = [
  ['clock', "by each site's own clock"],
  ['instant', 'everywhere at once, by your clock'],
] as const

/** When it goes live at each of its sites and when it comes back; what stands in its way; undone in one step. */
export function Goes({ told }: { told: Change }) {
  const { change } = told
  const anew = useAnew()
  const [setting, setSetting] = useState(false)
  const [meets, setMeets] = useState<Schemas['UndoMeetsOut'][]>([])
  const lens = useLens()
  const synced = useQuery({ ...syncQuery, enabled: told.on_its_way })
  const byHand = (synced.data ?? []).filter(
    (one) => one.release_state === 'by hand' && change.sites.some((site) => site.key === one.site),
  )
  const params = { path: { change: change.id } }
  const act = useMutation({
    mutationFn: (deed: 'take off' | 'hold' | 'let go' | 'undo') => {
      if (deed === 'take off') return answered(client.DELETE('/api/changes/{change}/schedule', { params }))
      if (deed === 'hold')
        return answered(client.POST('/api/changes/{change}/hold', { params, body: { says: '' } }))
      if (deed === 'let go') return answered(client.POST('/api/changes/{change}/let-go', { params }))
      return undone()
    },
    onSettled: () => anew.sites(),
  })
  const undone = async () => {
    const found = await answered(client.GET('/api/changes/{change}/undo', { params }))
    if (found.length > 0) setMeets(found)
    else await answered(client.POST('/api/changes/{change}/undo', { params, body: {} }))
  }
  const can = (deed: Deed) => told.can.includes(deed)
  const lines = change.sites.filter((site) => site.goes ?? site.ends ?? site.live_at)
  if (lines.length === 0 && !can('schedule')) return null
  return (
    <section aria-label="When it goes live" className="mb-3 border-l-4 border-dusk bg-plate px-3 py-2">
      <ul className="text-small">
        {lines.map((site) => (
          <li key={site.key} className="flex flex-wrap items-baseline gap-x-3">
            <b>{site.name}</b>
            <AtSite site={site} state={change.state} />
          </li>
        ))}
      </ul>
      <EveryYear change={change} can={can('schedule') || (change.state === 'live' && can('undo'))} />
      <Told error={act.error} />
      {meets.length > 0 && <UndoMeets change={change} meets={meets} onClose={() => setMeets([])} />}
      {setting ? (
        <SetMoment change={change} onDone={() => setSetting(false)} />
      ) : (
        <div className="mt-1 flex flex-wrap items-center gap-2">
          {can('schedule') && (
            <Button small onClick={() => setSetting(true)}>
              {change.schedule ? 'Move it …' : 'Give it a moment …'}
            </Button>
          )}
          {change.schedule && can('schedule') && (
            <Button small tone="quiet" disabled={act.isPending} onClick={() => act.mutate('take off')}>
              no moment any more
            </Button>
          )}
          {can('hold') && (
            <Button small disabled={act.isPending} onClick={() => act.mutate('hold')}>
              Hold it
            </Button>
          )}
          {can('let go') && (
            <Button small disabled={act.isPending} onClick={() => act.mutate('let go')}>
              Let it go
            </Button>
          )}
          {can('undo') && !told.on_its_way && (
            <Button small disabled={act.isPending} onClick={() => act.mutate('undo')}>
              Undo it at {change.sites.length === 1 ? 'its site' : 'all its sites'}
            </Button>
          )}
          {told.on_its_way && (
            <span role="status" className="text-small text-ink-2">
              On its way just now.{' '}
              {byHand.map((one) => (
                <Link
                  key={one.site}
                  to="/sync"
                  search={{ ...lens, site: one.site } as never}
                  className="underline"
                >
                  To be done by hand at {one.name}
                </Link>
              ))}
            </span>
          )}
        </div>
      )}
    </section>
  )
}

function AtSite({ site, state }: { site: Schemas['AtSiteOut']; state: Schemas['OpenChangeOut']['state'] }) {
  const city = site.zone.split('/').at(-1)?.replaceAll('_', ' ')
  return (
    <>
      {site.live_at ? (
        <span>live since {when(site.live_at)}</span>
      ) : (
        site.goes && (
          <span>
            goes live {reading(site.goes)}, {city}
          </span>
        )
      )}
      {site.over_at ? (
        <span>what was before is live again since {when(site.over_at)}</span>
      ) : (
        site.ends && <span>and comes back {reading(site.ends)}</span>
      )}
      {site.says && <Trouble says={site.says} />}
      {!site.says && site.foretold && <Trouble says={site.foretold} />}
      {!site.says && !site.live_at && site.goes && (state === 'draft' || state === 'in review') && (
        <span className="text-ink-2">if it is approved by then</span>
      )}
    </>
  )
}

function Trouble({ says }: { says: string }) {
  return (
    <span className="basis-full text-signal">
      <Mark kind="stop">look at it</Mark> {says}
    </span>
  )
}

/** Both are kept as they were typed while the server refuses one. */
function SetMoment({ change, onDone }: { change: Schemas['OpenChangeOut']; onDone: () => void }) {
  const anew = useAnew()
  const before = change.schedule
  const [kind, setKind] = useState<Kind>(before?.kind ?? 'clock')
  const [goes, setGoes] = useState(shown(before?.kind, before?.goes))
  const [ends, setEnds] = useState(shown(before?.kind, before?.ends))
  const set = useMutation({
    mutationFn: () =>
      answered(
        client.PUT('/api/changes/{change}/schedule', {
          params: { path: { change: change.id } },
          body: { kind, goes: meant(kind, goes), ends: ends ? meant(kind, ends) : null },
        }),
      ),
    onSuccess: onDone,
    onSettled: () => anew.sites(),
  })
  const clock = set.error instanceof Refused ? set.error.problem : null
  return (
    <form
      className="mt-1 text-small"
      onSubmit={(event) => {
        event.preventDefault()
        if (goes) set.mutate()
      }}
    >
      <div className="flex flex-wrap items-center gap-x-3 gap-y-2">
        <span className="flex items-center gap-1">
          goes live <MomentField aria-label="Goes live" value={goes} onChange={setGoes} />
        </span>
        <span className="flex items-center gap-1">
          and comes back <MomentField aria-label="Comes back" value={ends} onChange={setEnds} />
        </span>
        <Choice
          aria-label="By which clock"
          value={kind}
          options={KINDS}
          onChoose={(chosen) => setKind(chosen as Kind)}
        />
        <Button small type="submit" tone="go" disabled={!goes || set.isPending}>
          {before ? 'Move it' : 'Set it'}
        </Button>
        <Button small tone="quiet" onClick={onDone}>
          not now
        </Button>
      </div>
      <p className="text-note text-ink-2">
        Left empty, it does not come back. What stands in its way by what is known now is told as soon as it
        is set.
      </p>
      {clock?.comes && clock.offers ? (
        <p role="alert" className="border-l-4 border-signal bg-signal-ground px-2 py-1">
          {clock.detail.split(':')[0]}:{' '}
          {clock.comes === 'never'
            ? 'the clock never shows this time, it is put forward.'
            : 'the clock shows this time twice.'}{' '}
          {clock.offers.map((offer, at) => (
            <button
              key={offer}
              type="button"
              className="mr-3 font-semibold underline"
              onClick={() => {
                if (clock.where === 'ends') setEnds(offer)
                else setGoes(offer)
                set.reset()
              }}
            >
              {clock.comes === 'never' ? reading(offer) : at === 0 ? 'the first time' : 'the second time'}
            </button>
          ))}
        </p>
      ) : (
        <Told error={set.error} />
      )}
    </form>
  )
}

/** An instant stands in the field as the reader's own clock shows it. */
function shown(kind: Kind | undefined, at: string | null | undefined): string {
  if (!at) return ''
  if (kind !== 'instant') return at
  const local = new Date(`${at}Z`)
  return `${local.toLocaleDateString('sv')}T${local.toTimeString().slice(0, 5)}`
}

const meant = (kind: Kind, at: string): string =>
  kind === 'instant' ? new Date(at.slice(0, 16)).toISOString().slice(0, 16) : at
