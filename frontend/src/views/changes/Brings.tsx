import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import type { Schemas } from '../../api/client'
import { bringsQuery } from '../../api/queries'
import { Button } from '../../parts/Button'
import { andJoined } from '../../parts/joined'
import { Mark } from '../../parts/Mark'
import { Trouble } from '../../parts/Trouble'
import { BeforeAfter } from './BeforeAfter'

/** What a change brings visitors of a site: who sees what anew, what is within reach, what is mended, how it is drawn. */
export function Brings({ change, site }: { change: string; site: string }) {
  const found = useQuery(bringsQuery(change, site))
  const [drawn, setDrawn] = useState(false)
  if (!found.data) return found.error ? <Trouble query={found} /> : null
  const { seen, reach, mended } = found.data
  return (
    <section aria-label="What it brings visitors" className="border-t border-hair py-2">
      <h4 className="flex flex-wrap items-baseline gap-x-3 font-bold">
        What it brings visitors
        <Button small tone="quiet" aria-expanded={drawn} onClick={() => setDrawn(!drawn)}>
          as it is drawn, before and after
        </Button>
      </h4>
      <ul>
        {seen.map((one) => (
          <li key={`${one.location} ${one.sees} ${one.audiences} ${one.devices}`} className="flex gap-2">
            <span aria-hidden="true" className="w-3 flex-none text-center text-ink-2">
              {one.sees ? '+' : '−'}
            </span>
            <span>
              {whoSees(one)} <strong>{one.entries.join(', ')}</strong>
              {!one.sees && one.everybody && ' any more'}
              <span className="text-ink-2">
                {' '}
                · {one.title}, on {andJoined(one.devices)}
              </span>
            </span>
          </li>
        ))}
        {reach.map((one) => (
          <li key={one.devices.join()} className="flex gap-2">
            <span aria-hidden="true" className="w-3 flex-none text-center text-ink-2">
              ⇢
            </span>
            <span>
              {one.won_in_all > 0 && <>Menus lead to {some(one.won, one.won_in_all)} from then on</>}
              {one.won_in_all > 0 && one.lost_in_all > 0 && '. '}
              {one.lost_in_all > 0 && <>No menu leads to {some(one.lost, one.lost_in_all)} any more</>}
              <span className="text-ink-2"> · on {andJoined(one.devices)}</span>
            </span>
          </li>
        ))}
        {mended.map((one) => (
          <li key={`${one.menu} ${one.says}`} className="flex gap-2">
            <Mark kind="ok">mended</Mark>
            <span>
              {one.says}
              {one.menu && <span className="text-ink-2"> · {one.menu}</span>}
            </span>
          </li>
        ))}
      </ul>
      {seen.length + reach.length + mended.length === 0 && (
        <p className="text-ink-2">Nobody sees an entry more or less, and nothing found before is mended.</p>
      )}
      {drawn && <BeforeAfter change={change} site={site} />}
    </section>
  )
}

function whoSees({ sees, everybody, audiences }: Schemas['SeenAnewOut']): string {
  if (everybody) return sees ? 'Everybody sees' : 'Nobody sees'
  const who = andJoined(audiences)
  const says = audiences.length > 1 ? 'see' : 'sees'
  return sees ? `From then on ${who} ${says}` : `${who} no longer ${says}`
}

const some = (addresses: string[], inAll: number) =>
  `${addresses.slice(0, 5).join(', ')}${inAll > 5 ? ` and ${inAll - 5} more` : ''}`
