import { useQuery } from '@tanstack/react-query'
import type { Schemas } from '../../api/client'
import { findingsAheadQuery } from '../../api/queries'
import { useLens } from '../../lens/useLens'
import { Empty } from '../../parts/Empty'
import { Mark } from '../../parts/Mark'
import { reading } from '../../parts/readings'
import { Trouble } from '../../parts/Trouble'
import { Waiting } from '../../parts/Waiting'
import { called, MARKS, nameOf, where } from './kinds'

type Becomes = Schemas['FoundThenOut']['becomes']

const SAYS: Record<Becomes, string> = {
  comes: 'Comes until then',
  goes: 'Goes until then',
  stays: 'Still there then',
}
const NONE: Record<Becomes, string> = {
  comes: 'Nothing new.',
  goes: 'Nothing goes by itself or by what is scheduled.',
  stays: 'Nothing stays.',
}

/** What checks will find at the lens's moment, with what is approved and scheduled until then: beside what they find now. */
export function Ahead({ site }: { site: string | undefined }) {
  const lens = useLens()
  const found = useQuery(findingsAheadQuery(site, lens))
  const told = found.data
  return (
    <div className="col-span-full min-h-0 overflow-auto pb-4 print:overflow-visible">
      <p className="text-ink-2">
        At {reading(lens.at ?? '')} on each site’s clock, with what is approved and scheduled until then.
      </p>
      <Trouble query={found} />
      {told && told.unlooked > 0 && (
        <p role="status">
          There was no time to look at {told.unlooked === 1 ? '1 site' : `${told.unlooked} sites`}: of these
          it says what they have now. Choose one above to look at it alone.
        </p>
      )}
      {!told && !found.error && <Waiting />}
      {told && told.lines.length === 0 && <Empty says="Nothing will be found then." />}
      {told &&
        told.lines.length > 0 &&
        (['comes', 'goes', 'stays'] as const).map((becomes) => (
          <section key={becomes} aria-label={SAYS[becomes]} className="mt-4">
            <h2>
              {SAYS[becomes]}: {told.counts[becomes]}
            </h2>
            {told.counts[becomes] === 0 && <p className="text-ink-2">{NONE[becomes]}</p>}
            <ul>
              {told.lines
                .filter((one) => one.becomes === becomes)
                .map(({ line }) => (
                  <li
                    key={nameOf(line)}
                    className={`grid grid-cols-[88px_minmax(0,1fr)_136px] gap-x-3 border-b border-hair px-2 py-1.5 ${becomes === 'goes' ? 'text-ink-2' : ''}`}
                  >
                    <Mark kind={MARKS[line.severity]}>
                      <span className="sr-only">{line.severity}, </span>
                      {called(line.code)}
                    </Mark>
                    <span className="min-w-0 break-words">{line.says}</span>
                    <span className="text-small text-ink-2">{where(line)}</span>
                  </li>
                ))}
            </ul>
          </section>
        ))}
      {told && told.more > 0 && <p className="text-small text-ink-2">{told.more} more.</p>}
    </div>
  )
}
