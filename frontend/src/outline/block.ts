/** Moves of several lines at once. A block is the chosen lines without those that go along with a chosen one above. */
import {
  childrenOf,
  copyOf,
  find,
  type Item,
  insert,
  move,
  nest,
  remove,
  type Spot,
  shift,
  type Tree,
  unnest,
  update,
} from './tree'

/** The ids at the head of what is chosen, in document order. */
export function headsOf(tree: Tree, chosen: ReadonlySet<string>): string[] {
  const heads: string[] = []
  const visit = (items: Tree) => {
    for (const item of items) {
      if (chosen.has(item.id)) heads.push(item.id)
      else visit(childrenOf(item))
    }
  }
  visit(tree)
  return heads
}

export const itemsOf = (tree: Tree, heads: readonly string[]): Item[] =>
  heads.flatMap((id) => find(tree, id)?.item ?? [])

const inTurn = (tree: Tree, heads: readonly string[], step: (tree: Tree, id: string) => Tree): Tree => {
  let next = tree
  for (const id of heads) {
    const moved = step(next, id)
    // Half a block moved is no move: where one line cannot go, none does.
    if (moved === next) return tree
    next = moved
  }
  return next
}

export const nestAll = (tree: Tree, heads: readonly string[]): Tree => inTurn(tree, heads, nest)
export const unnestAll = (tree: Tree, heads: readonly string[]): Tree =>
  inTurn(tree, [...heads].reverse(), unnest)
export const shiftAll = (tree: Tree, heads: readonly string[], step: -1 | 1): Tree =>
  inTurn(tree, step < 0 ? heads : [...heads].reverse(), (now, id) => shift(now, id, step))
export const removeAll = (tree: Tree, heads: readonly string[]): Tree => heads.reduce(remove, tree)
export const updateAll = (tree: Tree, ids: Iterable<string>, change: (item: Item) => Item): Tree =>
  [...ids].reduce((now, id) => update(now, id, change), tree)

/** The items at the spot, one after the other. */
export const insertAll = (tree: Tree, items: readonly Item[], { parentId, index }: Spot): Tree =>
  items.reduce((now, item, at) => insert(now, item, { parentId, index: index + at }), tree)

/** The block, as one, as children of a parent, counted after it was taken out. */
export function moveAll(tree: Tree, heads: readonly string[], to: Spot): Tree {
  if (heads.length === 1 && heads[0]) return move(tree, heads[0], to)
  const items = itemsOf(tree, heads)
  if (to.parentId !== null && find(items, to.parentId)) return tree
  return insertAll(removeAll(tree, heads), items, to)
}

/** Copies of the block, below its last line. */
export function duplicateAll(tree: Tree, heads: readonly string[]): { tree: Tree; copies: string[] } {
  const last = find(tree, heads.at(-1) ?? '')
  if (!last) return { tree, copies: [] }
  const copies = itemsOf(tree, heads).map(copyOf)
  const spot = { parentId: last.parentId, index: last.index + 1 }
  return { tree: insertAll(tree, copies, spot), copies: copies.map((copy) => copy.id) }
}
