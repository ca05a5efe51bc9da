import type { Schemas } from '../api/client'
import type { Incoming } from '../outline/clipboard'
import { flatten } from '../outline/tree'
import { labelOf, leadsTo } from '../outline/words'
import { Choice } from '../parts/Choice'
import { Mark } from '../parts/Mark'
import { Scrolled } from '../parts/Scrolled'
import { shown, taken, type Wanted } from './taken'

const AT_MOST = 400

interface Props {
  found: Incoming
  wanted: Wanted
  onWanted: (wanted: Wanted) => void
  languages: readonly string[]
}

/** Where each line comes to stand and what it leads to, with what was not understood; lines can be left out one by one. */
export function Preview({ found, wanted, onWanted, languages }: Props) {
  const all = flatten(found.document.items ?? [], NOTHING)
  const coming = flatten(taken(found.document.items ?? [], wanted), NOTHING)
  const rows = shown(all, coming)
  const matches = new Map(found.titles?.matches.map((one) => [one.item, one]))
  const already = new Set(found.already)
  const toggle = (id: string) => {
    const out = new Set(wanted.out)
    if (!out.delete(id)) out.add(id)
    onWanted({ ...wanted, out })
  }
  const lead = (id: string, page: string) => {
    const pages = new Map(wanted.pages)
    if (page) pages.set(id, page)
    else pages.delete(id)
    onWanted({ ...wanted, pages })
  }
  return (
    <>
      <p role="status">
        <b>{coming.length === 1 ? '1 line' : `${coming.length} lines`}</b>
        {coming.length < all.length && ` of ${all.length}`}, {found.depth}{' '}
        {found.depth === 1 ? 'level' : 'levels'}
        {already.size > 0 &&
          `; ${already.size === 1 ? '1 leads' : `${already.size} lead`} where a line of this menu leads already`}
      </p>
      {found.titles && <Titles titles={found.titles} />}
      {found.notes.length > 0 && (
        <Scrolled label="Not understood" className="max-h-[96px] flex-none text-small">
          <ul>
            {found.notes.map((note: Schemas['Problem']) => (
              <li key={`${note.where} ${note.says}`}>
                <Mark kind="stop">{note.where}</Mark> {note.says}
              </li>
            ))}
          </ul>
        </Scrolled>
      )}
      <Scrolled label="What would come in" className="flex-1 border-t border-hair pt-1">
        <ul>
          {rows.slice(0, AT_MOST).map(({ item, level, number }) => {
            const match = matches.get(item.id)
            const words = labelOf(item, languages) || item.kind
            return (
              <li
                key={item.id}
                className={`flex items-baseline gap-2 ${number ? '' : 'text-ink-3'}`}
                style={{ paddingLeft: (level - 1) * 18 }}
              >
                <input
                  type="checkbox"
                  aria-label={`Bring in ${words}`}
                  checked={number !== null}
                  onChange={() => toggle(item.id)}
                  className="size-4 flex-none self-center"
                />
                <span className="mono w-[36px] flex-none text-right text-ink-2">{number ?? 'out'}</span>
                <span
                  className={`max-w-[65%] flex-none truncate font-semibold ${number ? '' : 'line-through'}`}
                >
                  {words}
                </span>
                {match && number ? (
                  <Choice
                    aria-label={`Page of ${words}`}
                    className="ml-auto max-w-[220px] text-small"
                    value={wanted.pages.get(item.id) ?? ''}
                    onChoose={(page) => lead(item.id, page)}
                    options={[
                      ['', item.kind === 'heading' ? 'no page' : 'nothing yet'],
                      ...match.pages.map((page) => [page.ref, `${page.title} ${page.path}`] as const),
                    ]}
                  />
                ) : (
                  <code className="truncate text-ink-2">{leadsTo(item)}</code>
                )}
              </li>
            )
          })}
          {rows.length > AT_MOST && <li className="text-ink-2">and {rows.length - AT_MOST} more</li>}
        </ul>
      </Scrolled>
    </>
  )
}

const NOTHING: ReadonlySet<string> = new Set()

function Titles({ titles }: { titles: Schemas['IncomingTitles'] }) {
  if (titles.asked === 0) return null
  const sure = titles.matches.filter((one) => one.sure).length
  const unsure = titles.matches.length - sure
  return (
    <p className="text-small">
      {titles.asked === 1 ? '1 title' : `${titles.asked} titles`} without an address: {sure} found among the
      pages
      {unsure > 0 && (
        <>
          , <Mark kind="open">{unsure} unsure</Mark>
        </>
      )}
    </p>
  )
}
