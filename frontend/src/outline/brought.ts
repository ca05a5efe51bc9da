/**
 * What somebody else did, brought into any state of one's own: the newest one with its blank lines, and each that undo
 * and redo lead to, so that they take back one's own steps and nothing else.
 */
import { childrenOf, find, type Item, insert, move, remove, type Tree, update, withChildren } from './tree'

/** The items of a tree by id, each with the id of what it stands below. */
function places(tree: Tree): Map<string, { item: Item; parentId: string | null }> {
  const found = new Map<string, { item: Item; parentId: string | null }>()
  const visit = (items: Tree, parentId: string | null) => {
    for (const item of items) {
      found.set(item.id, { item, parentId })
      visit(childrenOf(item), item.id)
    }
  }
  visit(tree, null)
  return found
}

const siblingsIn = (tree: Tree, parentId: string | null): Tree => {
  if (parentId === null) return tree
  const parent = find(tree, parentId)
  return parent ? childrenOf(parent.item) : []
}

type Fields = Record<string, unknown>

/** The fields of an item without what stands below it; every language's label is one of them. */
function fieldsOf(item: Item): Fields {
  const { label, ...rest } = withChildren(item, []) as Item & { label?: Record<string, string> }
  const labels = Object.entries(label ?? {}).map(([language, text]) => [`label.${language}`, text])
  return { ...rest, ...Object.fromEntries(labels) }
}

function itemOf(fields: Fields, items: Tree): Item {
  const label: Record<string, string> = {}
  const rest: Fields = {}
  for (const [name, value] of Object.entries(fields)) {
    if (value === undefined) continue
    if (name.startsWith('label.')) label[name.slice(6)] = value as string
    else rest[name] = value
  }
  const whole = Object.keys(label).length > 0 || rest.kind === 'link' ? { ...rest, label } : rest
  return withChildren(whole as unknown as Item, items)
}

const same = (one: unknown, other: unknown): boolean => JSON.stringify(one) === JSON.stringify(other)

/** What somebody did to a tree. */
export interface Edits {
  after: Tree
  /** Fields that are others now, by the item's id. */
  fields: [string, Fields][]
  /** What is gone, what stood below something before that itself. */
  gone: string[]
  /** What is new, or stands below something else now, in document order. */
  placed: { id: string; parentId: string | null; item: Item }[]
  /** The ids of those whose children stayed and are in another order, with that order. */
  orders: [string | null, string[]][]
}

/** The edits that lead from one tree to the other. */
export function editsBetween(before: Tree, after: Tree): Edits {
  const [was, is] = [places(before), places(after)]
  const edits: Edits = { after, fields: [], gone: [], placed: [], orders: [] }
  edits.gone = [...was.keys()].filter((id) => !is.has(id)).reverse()
  const parents = new Set<string | null>([null])
  for (const [id, { item, parentId }] of is) {
    const old = was.get(id)
    if (old) {
      const [then, now] = [fieldsOf(old.item), fieldsOf(item)]
      const names = Object.keys({ ...then, ...now }).filter((name) => !same(then[name], now[name]))
      if (names.length > 0)
        edits.fields.push([id, Object.fromEntries(names.map((name) => [name, now[name]]))])
    }
    if (old?.parentId !== parentId) edits.placed.push({ id, parentId, item })
    if (childrenOf(item).length > 1) parents.add(id)
  }
  for (const parentId of parents) {
    const order = siblingsIn(after, parentId).map((one) => one.id)
    const stayed = order.filter((id) => was.get(id)?.parentId === parentId)
    const then = siblingsIn(before, parentId)
      .map((one) => one.id)
      .filter((id) => stayed.includes(id))
    if (!same(then, stayed)) edits.orders.push([parentId, stayed])
  }
  return edits
}

/** The place below `parentId` right after the nearest of the siblings before `id` that stands there too. */
function spotOf(state: Tree, after: Tree, parentId: string | null, id: string): number {
  const order = siblingsIn(after, parentId).map((one) => one.id)
  const there = siblingsIn(state, parentId)
    .map((one) => one.id)
    .filter((one) => one !== id)
  const beside = order
    .slice(0, order.indexOf(id))
    .reverse()
    .find((one) => there.includes(one))
  return beside === undefined ? 0 : there.indexOf(beside) + 1
}

/** Somebody's edits, done to a state of the same menu: what they changed stands, whatever one did to the same field. */
export function brought(state: Tree, edits: Edits): Tree {
  let now = state
  for (const [id, fields] of edits.fields)
    now = update(now, id, (item) => {
      const next = itemOf({ ...fieldsOf(item), ...fields }, childrenOf(item))
      // A kind that can hold nothing does not take what stands below it in this state.
      return childrenOf(next).length === childrenOf(item).length ? next : item
    })
  for (const id of edits.gone) {
    const found = find(now, id)
    if (!found) continue
    // What only this state has below it stays, where that stood.
    const { parentId, index } = found
    now = childrenOf(found.item).reduceRight(
      (tree, one) => insert(tree, one, { parentId, index }),
      remove(now, id),
    )
  }
  for (const { id, parentId, item } of edits.placed) {
    const below = parentId !== null && find(now, parentId) ? parentId : null
    const spot = { parentId: below, index: spotOf(now, edits.after, below, id) }
    now = find(now, id) ? move(now, id, spot) : insert(now, withChildren(item, []), spot)
  }
  for (const [parentId, order] of edits.orders)
    for (const id of order)
      if (find(now, id)?.parentId === parentId)
        now = move(now, id, { parentId, index: spotOf(now, edits.after, parentId, id) })
  return now
}
