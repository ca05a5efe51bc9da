import type { ReactNode } from 'react'
import type { Schemas } from '../api/client'
import { andJoined } from '../parts/joined'
import { Mark } from '../parts/Mark'

type Goes = Schemas['MenuGoesOut']

const SHOWN = 40

interface Props {
  menu: Goes
  /** Whether whose an edit is has to be said. */
  several: boolean
  /** Beside its name. */
  children?: ReactNode
  /** Beside the last edit of an entry, and beneath it. */
  beside?: (item: string | null) => ReactNode
  beneath?: (item: string | null) => ReactNode
}

/** What is edited in a menu, where that shows and for whom, and what is found against it. */
export function MenuGoes({ menu, several, children, beside, beneath }: Props) {
  // Of several edits of one entry, the last.
  const last = new Map(menu.edits.first.slice(0, SHOWN).map((edit) => [edit.id, edit.key]))
  const rest = menu.edits.count - Math.min(menu.edits.count, SHOWN)
  return (
    <section aria-label={menu.name} className="border-t border-hair py-2 first:border-0">
      <h3 className="flex flex-wrap items-baseline gap-x-3 font-bold">
        {menu.name}
        <span className="font-normal text-ink-2">{where(menu)}</span>
        <span className="ml-auto">{children}</span>
      </h3>
      <ul>
        {menu.edits.first.slice(0, SHOWN).map((edit) => (
          <li key={edit.key}>
            <span className="flex items-baseline gap-3">
              <span className="min-w-0 flex-1">{edit.says}</span>
              {several && edit.by && <span className="text-small text-ink-2">{edit.by}</span>}
              {last.get(edit.id) === edit.key && beside?.(edit.id)}
            </span>
            {last.get(edit.id) === edit.key && beneath?.(edit.id)}
          </li>
        ))}
        {menu.edits.count === 0 && <li className="text-ink-2">as it is, in another place</li>}
        {rest > 0 && <li className="text-ink-2">and {rest} more</li>}
      </ul>
      {menu.findings.length > 0 && (
        <ul aria-label={`Findings against ${menu.name}`} className="mt-1">
          {menu.findings.map((one) => (
            <li key={`${one.code} ${one.item} ${one.location} ${one.language}`}>
              <Mark kind={one.severity === 'stop' ? 'stop' : 'open'}>
                {one.number && `${one.number} · `}
                {one.says}
              </Mark>
            </li>
          ))}
        </ul>
      )}
    </section>
  )
}

/** Where it shows, and for whom it is another than before. */
function where(menu: Goes): string {
  if (!menu.hangs) return 'hangs nowhere: nobody gets it'
  if (menu.places.length === 0) return 'nobody gets anything else by it just now'
  const places = menu.places.map((one) => `${one.title} on ${andJoined(one.devices)}`)
  return `${places.join('; ')}, for ${menu.everybody ? 'everybody' : andJoined(menu.audiences)}`
}
