import type { ReactNode } from 'react'
import type { Schemas } from '../../api/client'
import { andJoined } from '../../parts/joined'
import { Mark, type MarkKind } from '../../parts/Mark'
import { reading } from '../../parts/readings'
import { ago } from '../../parts/times'

type Change = Schemas['OpenChangeOut']

export const STANDS: Record<Change['state'], MarkKind> = {
  draft: 'open',
  'in review': 'waiting',
  approved: 'ok',
  scheduled: 'next',
  'going live': 'next',
  live: 'ok',
  withdrawn: 'open',
  held: 'waiting',
  missed: 'stop',
  failed: 'stop',
  undone: 'open',
  ended: 'open',
}

/** In this order: first what somebody waits for. */
const GROUPS: readonly [says: string, states: readonly Change['state'][]][] = [
  ['In review', ['in review']],
  ['Did not go live', ['failed', 'missed', 'held']],
  ['Approved', ['approved', 'scheduled', 'going live']],
  ['Drafts', ['draft']],
]

interface Props {
  changes: readonly Change[]
  chosen: string | null
  onChoose: (id: string) => void
  /** What is told of the chosen one, where it stands beneath its line. */
  beneath: ReactNode
  empty: ReactNode
}

/** A line for each change, those first that wait for whoever looks. */
export function ChangeLines({ changes, chosen, onChoose, beneath, empty }: Props) {
  if (changes.length === 0) return <div>{empty}</div>
  const mine = changes.filter((one) => one.waits_for_me)
  const groups = [
    ['Wait for you', mine] as const,
    ...GROUPS.map(
      ([says, states]) =>
        [says, changes.filter((one) => !one.waits_for_me && states.includes(one.state))] as const,
    ),
  ].filter(([, lines]) => lines.length > 0)
  return (
    <div className="min-h-0 overflow-auto pb-4">
      {groups.map(([says, lines]) => (
        <section key={says} aria-label={says} className="mb-3">
          <h2 className="text-small font-bold text-ink-2">{says}</h2>
          <ul>
            {lines.map((one) => (
              <li key={one.id} className="border-t border-hair">
                <button
                  type="button"
                  aria-pressed={one.id === chosen}
                  onClick={() => onChoose(one.id)}
                  className="w-full rounded-sign px-2 py-1.5 text-left hover:bg-paper-2 aria-pressed:bg-plate aria-pressed:outline-[1.5px] aria-pressed:-outline-offset-1 aria-pressed:outline-ink"
                >
                  <span className="flex items-baseline justify-between gap-3">
                    <b className="min-w-0 break-words">{one.title}</b>
                    <Mark kind={STANDS[one.state]}>{stands(one)}</Mark>
                  </span>
                  <span className="block text-small text-ink-2">
                    {andJoined(one.sites.map((site) => site.name))}
                  </span>
                  <span className="block text-small text-ink-2">
                    {one.author ?? 'the shelf'}, {ago(one.created_at)}
                  </span>
                  {one.schedule && <GoesAt change={one} />}
                </button>
                {beneath && one.id === chosen && (
                  <section aria-label="The change" className="px-2 py-3">
                    {beneath}
                  </section>
                )}
              </li>
            ))}
          </ul>
        </section>
      ))}
    </div>
  )
}

/** The first of its moments that is still to come, and what is known to stand in its way. */
function GoesAt({ change }: { change: Change }) {
  const at = change.sites
    .filter((site) => !site.live_at && site.goes)
    .sort((one, other) => (one.goes_at ?? '').localeCompare(other.goes_at ?? ''))[0]
  const trouble = change.sites.find((site) => site.says || site.foretold)
  return (
    <span className="block text-small text-ink-2">
      {at && `goes live ${reading(at.goes ?? '')}`}
      {trouble && (
        <span className="block">
          <Mark kind="stop">{trouble.says ? 'did not go' : 'will not go'}</Mark>
        </span>
      )}
    </span>
  )
}

/** With how many approve of what it is now, where that counts. */
export function stands(one: Change): string {
  return one.state === 'in review' ? `${one.approvals} of ${one.wanted} approve` : one.state
}
