import type { Schemas } from '../api/client'
import { Button } from './Button'
import { Mark } from './Mark'
import { ago, when } from './times'

/** Where an account is signed in, each to be ended. */
export function SignIns({
  found,
  pending,
  onEnd,
}: {
  found: Schemas['SignedInOut'][]
  pending: boolean
  onEnd: (id: string) => void
}) {
  if (found.length === 0) return <p className="text-small text-ink-2">Signed in nowhere.</p>
  return (
    <ul className="text-small">
      {found.map((one) => (
        <li key={one.id} className="flex flex-wrap items-baseline gap-x-3 border-t border-hair py-1">
          <span className="font-semibold">{one.name ? `Program: ${one.name}` : browser(one.browser)}</span>
          <span className="text-ink-2">
            from {one.address || 'an unknown address'} · since {when(one.since)}
            {one.seen_at && ` · last seen ${ago(one.seen_at)}`}
            {one.name && ` · ${may(one)}, until ${when(one.until)}`}
          </span>
          <span className="ml-auto">
            {one.here ? (
              <Mark kind="ok">here</Mark>
            ) : (
              <Button
                small
                disabled={pending}
                onClick={() => onEnd(one.id)}
                aria-label={`End ${one.name || browser(one.browser)}`}
              >
                End
              </Button>
            )}
          </span>
        </li>
      ))}
    </ul>
  )
}

const MAY: Record<Schemas['SignedInOut']['scope'], string> = {
  look: 'may look',
  edit: 'may edit in changes',
  'put live': 'may edit and put live',
  all: 'may do all',
}

const may = ({ scope, only_at }: Schemas['SignedInOut']) =>
  only_at.length > 0 ? `${MAY[scope]} at ${only_at.join(', ')}` : MAY[scope]

/** The browser and the system, as far as they say so. */
function browser(agent: string): string {
  const name = /Firefox|Edg|Chrome|Safari/.exec(agent)?.[0]?.replace('Edg', 'Edge')
  const on = /Windows|Mac OS|Android|iPhone|iPad|Linux/.exec(agent)?.[0]
  return name ? `${name}${on ? ` on ${on}` : ''}` : agent.split(/[\s/]/)[0] || 'A browser'
}
