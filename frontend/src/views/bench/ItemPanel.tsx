import { Link } from '@tanstack/react-router'
import { memo } from 'react'
import type { Schemas } from '../../api/client'
import { useLens } from '../../lens/useLens'
import type { Bounds } from '../../outline/carryOut'
import type { Choosing } from '../../outline/Outline'
import { find, type Item, isBlank, type Row, update } from '../../outline/tree'
import type { Editor } from '../../outline/useEditor'
import { labelOf } from '../../outline/words'
import { Mark } from '../../parts/Mark'
import { HangItHere } from './HangItHere'
import { Dress } from './item/Dress'
import { LeadsTo } from './item/LeadsTo'
import { Line } from './item/line'
import { ManyLines } from './item/ManyLines'
import { Opens } from './item/Opens'
import { Says } from './item/Says'
import { Shows } from './item/Shows'

interface Props {
  site: Schemas['SitePage']
  menu: string
  hash: string
  editor: Editor
  row: Row | null
  bounds: Bounds
  hidden: string | undefined
  editable: boolean
  onChoosing: (choosing: Choosing) => void
}

/** The chosen item in short sentences, edited in place; several lines at once where several are chosen. */
export const ItemPanel = memo(function ItemPanel(props: Props) {
  const { site, editor, row, bounds, hidden, editable } = props
  const started = editor.tree.filter((item) => !isBlank(item)).length
  if (!row || started === 0) {
    return (
      <section aria-label="Item" className="px-[18px] py-2.5 text-ink-2">
        {started === 0 ? (
          <p>
            The menu is empty. Type its first entry on the left: a label, then <code>-&gt;</code> to choose
            where it leads. A label that ends with a colon is a heading, three hyphens a divider. A list can
            be pasted whole.
          </p>
        ) : (
          <p>Choose a line to see what it says, where it leads and to whom it shows.</p>
        )}
        {editable && <HangItHere site={site} menu={props.menu} />}
      </section>
    )
  }
  if (editor.chosen.size > 1)
    return <ManyLines site={site.key} editor={editor} row={row} bounds={bounds} editable={editable} />
  const { item } = row
  const languages = bounds.languages
  const parent = row.parentId ? find(editor.tree, row.parentId)?.item : undefined
  const set = (change: (before: Item) => Item, run: string) =>
    editor.edit(update(editor.now(), item.id, change), undefined, `${run} ${item.id}`)
  const labelled = item.kind !== 'divider' && item.kind !== 'include'
  return (
    <section aria-label="Item" className="overflow-auto px-[18px] py-2.5">
      <h2 className="text-body">
        {row.number} {labelOf(item, languages) || item.kind}{' '}
        <span className="font-normal text-ink-2">
          {parent ? `under ${labelOf(parent, languages)}` : 'at the top'}
        </span>
      </h2>
      <dl className="mt-2 grid grid-cols-[70px_minmax(0,1fr)] gap-x-2.5 gap-y-2 text-body">
        {labelled && (
          <Says item={item} site={site} languages={site.languages} editable={editable} set={set} />
        )}
        {item.kind !== 'divider' && (
          <LeadsTo
            key={item.id}
            item={item}
            site={site}
            menu={props.menu}
            hash={props.hash}
            language={languages[0] ?? 'en'}
            editable={editable}
            set={set}
            onChoosing={props.onChoosing}
          />
        )}
        {item.kind === 'link' && <Opens item={item} site={site} editable={editable} set={set} />}
        <Shows
          site={site.key}
          item={item}
          above={rulesAbove(editor.tree, row.parentId)}
          zone={site.zone}
          editable={editable}
          set={set}
        />
        {labelled && (
          <Dress item={item} can={site.can} languages={site.languages} editable={editable} set={set} />
        )}
        {item.origin && <Origin site={site.key} menu={props.menu} origin={item.origin} />}
        {hidden && (
          <Line name="now">
            <Mark kind="open">this visitor does not get it: {hidden}</Mark>
          </Line>
        )}
      </dl>
    </section>
  )
})

/** The rules of the items that one stands below, from the top. */
function rulesAbove(tree: Editor['tree'], parentId: string | null): string[] {
  const found = parentId === null ? undefined : find(tree, parentId)
  if (!found) return []
  const when = found.item.when
  return [...rulesAbove(tree, found.parentId), ...(when ? [when] : [])]
}

/** What the item was copied from, with the way there. */
function Origin({ site, menu, origin }: { site: string; menu: string; origin: string }) {
  const lens = useLens()
  const steps = origin.split('/')
  const params = { site: steps.at(-3) ?? site, menu: steps.at(-2) ?? menu }
  return (
    <Line name="copied">
      from{' '}
      <Link to="/sites/$site/menus/$menu" params={params} search={lens} className="mono underline">
        {origin}
      </Link>
    </Line>
  )
}
