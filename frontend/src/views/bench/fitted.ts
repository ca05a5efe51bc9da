import { moveAll } from '../../outline/block'
import { relabelled } from '../../outline/pointing'
import { childrenOf, find, type Item, insert, newId, type Tree, update } from '../../outline/tree'
import type { Suggestion } from './Ruler'

/** The menu after what would make its bar fit. What moves to another place is another menu's edit. */
export function fitted(tree: Tree, one: Suggestion, language: string): Tree {
  const id = one.items[0] ?? ''
  if (one.kind === 'shorter' && one.label)
    return update(tree, id, (item) => relabelled(item, language, one.label ?? ''))
  if (one.kind === 'icon-alone')
    return update(tree, id, (item) =>
      'look' in item ? ({ ...item, look: { ...item.look, icon_only: true } } as Item) : item,
    )
  if (one.kind !== 'nest' || !one.label) return tree
  const heading: Item = { id: newId(), kind: 'heading', label: { [language]: one.label }, items: [] } as Item
  const heads = one.items.filter((item) => find(tree, item))
  const longer = insert(tree, heading, { parentId: null, index: tree.length })
  const above = find(longer, heading.id)
  return above ? moveAll(longer, heads, { parentId: heading.id, index: childrenOf(heading).length }) : tree
}
