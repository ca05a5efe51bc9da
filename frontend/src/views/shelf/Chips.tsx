import { useNavigate } from '@tanstack/react-router'
import { ORDERS, SHOWS, type ShelfAt, type Show } from '../../app/shelf'
import { Choice } from '../../parts/Choice'
import { Tick } from '../../parts/Tick'

const SAYS: Record<Show, string> = {
  'wants me': 'want me',
  broken: 'broken',
  drifted: 'drifted',
  'this week': 'go live this week',
  mine: 'mine',
}

/** Which sites are shown, in what order, and how closely. */
export function Chips({ at, counts }: { at: ShelfAt; counts: Record<Show, number> }) {
  const navigate = useNavigate()
  const to = (next: ShelfAt) =>
    void navigate({ to: '.', replace: true, search: (before: object) => ({ ...before, ...next }) })
  return (
    <p className="mb-1 flex flex-wrap items-baseline gap-x-2 gap-y-1 text-small text-ink-2 print:hidden">
      {SHOWS.map((one) => (
        <button
          key={one}
          type="button"
          aria-pressed={at.show === one}
          disabled={counts[one] === 0 && at.show !== one}
          onClick={() => to({ show: at.show === one ? undefined : one })}
          className="min-h-6 rounded-sign border border-edge bg-plate px-2 text-ink disabled:text-ink-3 aria-pressed:border-ink aria-pressed:bg-ink aria-pressed:text-paper"
        >
          <b>{counts[one]}</b> {SAYS[one]}
        </button>
      ))}
      <Choice
        aria-label="Their order"
        value={at.order ?? 'by name'}
        options={ORDERS}
        onChoose={(order) => to({ order: ORDERS.find((one) => one === order && one !== 'by name') })}
      />
      <Tick checked={at.dense ?? false} onTick={(dense) => to({ dense: dense || undefined })}>
        close together
      </Tick>
    </p>
  )
}
