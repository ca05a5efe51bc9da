/**
 * The outline's tree moves: what must answer at once. The rules are those of core/model/tree.py; each function returns a
 * new tree and leaves untouched branches as they were, or returns the same tree where the move is impossible.
 */
import type { Schemas } from '../api/client'

export type MenuDocument = Schemas['MenuDocument']
export type Item = NonNullable<MenuDocument['items']>[number]
export type Target = Schemas['Link']['target']
export type Tree = readonly Item[]

export const childrenOf = (item: Item): Tree => ('items' in item && item.items ? item.items : [])
export const canHold = (item: Item): boolean =>
  item.kind === 'link' || item.kind === 'heading' || item.kind === 'opener'

export function withChildren(item: Item, items: Tree): Item {
  if (!canHold(item)) return item
  if (items.length > 0) return { ...item, items: [...items] } as Item
  const { items: _, ...rest } = item as Schemas['Link']
  return rest as Item
}

export interface Spot {
  parentId: string | null
  index: number
}

export interface Found extends Spot {
  item: Item
  siblings: Tree
}

export function find(tree: Tree, id: string, parentId: string | null = null): Found | null {
  for (const [index, item] of tree.entries()) {
    if (item.id === id) return { item, parentId, index, siblings: tree }
    const below = find(childrenOf(item), id, item.id)
    if (below) return below
  }
  return null
}

function onSiblings(tree: Tree, parentId: string | null, change: (siblings: Tree) => Tree): Tree {
  if (parentId === null) return change(tree)
  let touched = false
  const next = tree.map((item) => {
    if (touched) return item
    const below = childrenOf(item)
    const changed = item.id === parentId ? change(below) : onSiblings(below, parentId, change)
    if (changed === below) return item
    touched = true
    return withChildren(item, changed)
  })
  return touched ? next : tree
}

export const insert = (tree: Tree, item: Item, { parentId, index }: Spot): Tree =>
  onSiblings(tree, parentId, (siblings) => [...siblings.slice(0, index), item, ...siblings.slice(index)])

export function remove(tree: Tree, id: string): Tree {
  const found = find(tree, id)
  if (!found) return tree
  return onSiblings(tree, found.parentId, (siblings) => siblings.filter((item) => item.id !== id))
}

export function update(tree: Tree, id: string, change: (item: Item) => Item): Tree {
  const found = find(tree, id)
  if (!found) return tree
  return onSiblings(tree, found.parentId, (siblings) =>
    siblings.map((item) => (item.id === id ? change(item) : item)),
  )
}

/** The item as the `index`-th child of the parent, counted after it was taken out. */
export function move(tree: Tree, id: string, to: Spot): Tree {
  const found = find(tree, id)
  if (!found) return tree
  if (to.parentId !== null) {
    const parent = find(tree, to.parentId)
    if (!parent || !canHold(parent.item) || find([found.item], to.parentId)) return tree
  }
  if (found.parentId === to.parentId && found.index === to.index) return tree
  return insert(remove(tree, id), found.item, to)
}

export function nest(tree: Tree, id: string): Tree {
  const found = find(tree, id)
  const before = found?.siblings[found.index - 1]
  if (!found || !before || !canHold(before)) return tree
  return move(tree, id, { parentId: before.id, index: childrenOf(before).length })
}

export function unnest(tree: Tree, id: string): Tree {
  const found = find(tree, id)
  if (!found || found.parentId === null) return tree
  const parent = find(tree, found.parentId)
  return parent ? move(tree, id, { parentId: parent.parentId, index: parent.index + 1 }) : tree
}

export function shift(tree: Tree, id: string, step: -1 | 1): Tree {
  const found = find(tree, id)
  const index = (found?.index ?? 0) + step
  if (!found || index < 0 || index >= found.siblings.length) return tree
  return move(tree, id, { parentId: found.parentId, index })
}

export const newId = (): string => `i-${crypto.randomUUID().slice(0, 8)}`

export const blankLine = (): Item => ({ id: newId(), kind: 'link', label: {}, target: { pending: {} } })

/** A copy with new ids; each item remembers the one that it was copied from. */
export function copyOf(item: Item): Item {
  return withChildren({ ...item, id: newId(), origin: item.id }, childrenOf(item).map(copyOf))
}

/** Items from elsewhere under ids of this menu; what they remember stays. */
export const withNewIds = (items: Tree): Item[] =>
  items.map((item) => withChildren({ ...item, id: newId() }, withNewIds(childrenOf(item))))

/** A line on which nothing was written yet. It is kept on the screen and left out of what is saved. */
export const isBlank = (item: Item): boolean =>
  item.kind === 'link' &&
  Object.keys(item.label ?? {}).length === 0 &&
  'pending' in item.target &&
  Object.keys(item.target.pending).length === 0

/** The tree as it is saved: without blank lines; what stands below one moves up to its place. */
export function written(tree: Tree): Item[] {
  return tree.flatMap((item) => {
    const below = written(childrenOf(item))
    if (isBlank(item)) return below
    return [
      below.length === childrenOf(item).length && below.every((one, at) => one === childrenOf(item)[at])
        ? item
        : withChildren(item, below),
    ]
  })
}

export function depthOf(item: Item): number {
  return 1 + Math.max(0, ...childrenOf(item).map(depthOf))
}

export interface Row {
  item: Item
  number: string
  level: number
  parentId: string | null
  index: number
  size: number
  hasChildren: boolean
  /** For each level above this one, whether the rail goes on below this row. */
  rails: readonly boolean[]
}

/**
 * The lines of the outline from top to bottom, without what is folded away. Lines that are as they were among
 * `before` stay the same object, so that only changed ones are drawn again.
 */
export function flatten(tree: Tree, folded: ReadonlySet<string>, before: readonly Row[] = []): Row[] {
  const earlier = earlierRows(before)
  const rows: Row[] = []
  /** `placed`: the parent has the number and the rails that it had, so lines that kept their place below it have them too. */
  const visit = (items: Tree, parent: Row | null, rails: readonly boolean[], placed: boolean) => {
    const parentId = parent?.item.id ?? null
    items.forEach((item, index) => {
      const below = childrenOf(item)
      const was = earlier(item.id)
      const stays =
        placed && was?.parentId === parentId && was.index === index && was.size === items.length ? was : null
      const row: Row =
        stays?.item === item
          ? stays
          : {
              item,
              number: stays?.number ?? `${parent ? `${parent.number}.` : ''}${index + 1}`,
              level: rails.length + 1,
              parentId,
              index,
              size: items.length,
              hasChildren: below.length > 0,
              rails: stays?.rails ?? rails,
            }
      rows.push(row)
      if (below.length > 0 && !folded.has(item.id))
        visit(below, row, [...rails, index < items.length - 1], stays !== null)
    })
  }
  visit(tree, null, [], true)
  return rows
}

/** Finds rows by id: asked for them in their order, mostly, it need not look them up. */
function earlierRows(before: readonly Row[]): (id: string) => Row | undefined {
  let next = 0
  let places: Map<string, number> | null = null
  return (id) => {
    if (before[next]?.item.id !== id) {
      places ??= new Map(before.map((row, at) => [row.item.id, at]))
      const at = places.get(id)
      if (at === undefined) return undefined
      next = at
    }
    next += 1
    return before[next - 1]
  }
}

/** Every id that folding at a level closes: lines of that level which hold others. */
export function foldedAt(tree: Tree, level: number): Set<string> {
  const closed = new Set<string>()
  const visit = (items: Tree, at: number) => {
    for (const item of items) {
      if (childrenOf(item).length === 0) continue
      if (at >= level) closed.add(item.id)
      visit(childrenOf(item), at + 1)
    }
  }
  visit(tree, 1)
  return closed
}

/** The ids from the item's own up to the top one above it. */
export function pathTo(tree: Tree, id: string): string[] {
  const found = find(tree, id)
  if (!found) return []
  return found.parentId === null ? [id] : [id, ...pathTo(tree, found.parentId)]
}
