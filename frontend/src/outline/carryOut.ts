/** What each intent does to the editor: the tree, where the focus goes, and what is said aloud. */
import { duplicateAll, headsOf, itemsOf, nestAll, removeAll, shiftAll, unnestAll } from './block'
import type { Limit } from './drop'
import { changedAt } from './history'
import type { Intent } from './keys'
import {
  blankLine,
  canHold,
  childrenOf,
  depthOf,
  find,
  insert,
  isBlank,
  type Row,
  remove,
  type Tree,
  update,
} from './tree'
import type { Editor } from './useEditor'
import { labelOf } from './words'

export interface Bounds {
  languages: readonly string[]
  limit: Limit | null
}

/** Intents that only look; the others need the right to edit. */
export const LOOKING: ReadonlySet<Intent> = new Set([
  'previous',
  'next',
  'extend up',
  'extend down',
  'all',
  'first',
  'last',
  'close',
  'open',
  'levels',
  'find',
  'copy',
])

export function carryOut(editor: Editor, intent: Intent, row: Row, typing: boolean, bounds: Bounds): void {
  const { tree, rows } = editor
  const id = row.item.id
  const at = rows.indexOf(row)
  const heads = editor.chosen.size > 1 ? headsOf(tree, editor.chosen) : [id]
  const stay = { id, typing }
  const go = (goal: Row | undefined) =>
    goal && editor.choose({ id: goal.item.id, typing: typing && hasLabel(goal) })
  switch (intent) {
    case 'new line':
      return newLine(editor, row)
    case 'deeper': {
      const next = nestAll(tree, heads)
      const refusal = next === tree ? null : tooDeep(next, heads, bounds.limit)
      if (refusal) return editor.say(`${refusal}.`)
      return moved(editor, next, stay, bounds, 'The line above cannot hold others.')
    }
    case 'shallower':
      return moved(editor, unnestAll(tree, heads), stay, bounds, 'The line is at the top already.')
    case 'up':
    case 'down': {
      const next = shiftAll(tree, heads, intent === 'up' ? -1 : 1)
      return moved(editor, next, stay, bounds, 'The line is at the end of its level.')
    }
    case 'previous':
      return void go(rows[at - 1])
    case 'next':
      return void go(rows[at + 1])
    case 'first':
      return void go(rows[0])
    case 'last':
      return void go(rows.at(-1))
    case 'extend up':
    case 'extend down':
      return extend(editor, at, intent === 'extend up' ? -1 : 1)
    case 'all':
      return editor.chooseMany(
        rows.map((one) => one.item.id),
        { id, typing: false },
      )
    case 'close':
      if (row.hasChildren && !editor.folded.has(id)) return editor.fold(id, true)
      return void go(rows.find((one) => one.item.id === row.parentId))
    case 'open':
      if (row.hasChildren && editor.folded.has(id)) return editor.fold(id, false)
      return void (row.hasChildren && go(rows[at + 1]))
    case 'type':
      return editor.choose({ id, typing: hasLabel(row) })
    case 'leave':
      return leave(editor, row, at)
    case 'duplicate': {
      const made = duplicateAll(tree, heads)
      const first = made.copies[0]
      if (!first) return
      editor.edit(made.tree)
      return editor.chooseMany(made.copies, { id: first, typing: typing && heads.length === 1 })
    }
    case 'remove': {
      const gone = new Set(heads)
      const next =
        rows.slice(at + 1).find((one) => !isGone(tree, one.item.id, gone)) ?? before(tree, rows, at, gone)
      editor.say(
        heads.length > 1
          ? `Removed ${heads.length} lines.`
          : `Removed ${labelOf(row.item, bounds.languages) || 'the line'}.`,
      )
      editor.edit(removeAll(tree, heads))
      return editor.choose(next ? { id: next.item.id, typing: typing && hasLabel(next) } : null)
    }
    case 'page title':
      return backToTitle(editor, row, typing)
    case 'undo':
      return retrace(editor, editor.history.past.at(-1)?.tree, editor.undo, typing)
    case 'redo':
      return retrace(editor, editor.history.future[0]?.tree, editor.redo, typing)
    case 'copy':
    case 'cut':
    case 'target':
    case 'language':
    case 'find':
    case 'levels':
      return
  }
}

const hasLabel = (row: Row): boolean => row.item.kind !== 'divider' && row.item.kind !== 'include'

const isGone = (tree: Tree, id: string, heads: ReadonlySet<string>): boolean => {
  const found = find(tree, id)
  return heads.has(id) || (found?.parentId ? isGone(tree, found.parentId, heads) : false)
}

const before = (tree: Tree, rows: readonly Row[], at: number, gone: ReadonlySet<string>): Row | undefined =>
  rows.slice(0, at).findLast((one) => !isGone(tree, one.item.id, gone))

/** Why the block may not stand as deep as it does in the tree; null where it may. */
export function tooDeep(tree: Tree, heads: readonly string[], limit: Limit | null): string | null {
  if (!limit) return null
  const deepest = Math.max(...itemsOf(tree, heads).map((item) => levelOf(tree, item.id) + depthOf(item) - 1))
  return deepest > limit.depth
    ? `${limit.title} takes ${limit.depth} levels, this would make ${deepest}`
    : null
}

function levelOf(tree: Tree, id: string): number {
  const found = find(tree, id)
  return found?.parentId ? 1 + levelOf(tree, found.parentId) : 1
}

function extend(editor: Editor, at: number, step: -1 | 1): void {
  const goal = editor.rows[at + step]
  if (!goal) return
  const own = editor.rows[at]?.item.id ?? ''
  const next = new Set(editor.chosen)
  // Going back over what was chosen gives it up again.
  if (next.has(goal.item.id)) next.delete(own)
  else next.add(own)
  editor.chooseMany(next, { id: goal.item.id, typing: false })
  editor.say(`${next.size + (next.has(goal.item.id) ? 0 : 1)} lines chosen.`)
}

function moved(
  editor: Editor,
  next: Tree,
  focus: { id: string; typing: boolean },
  bounds: Bounds,
  otherwise: string,
): void {
  if (next === editor.tree) return editor.say(otherwise)
  editor.edit(next, editor.chosen.size > 1 ? undefined : focus)
  const found = find(next, focus.id)
  const parent = found?.parentId ? find(next, found.parentId)?.item : null
  const under = parent ? `under ${labelOf(parent, bounds.languages)}` : 'at the top'
  const what =
    editor.chosen.size > 1
      ? `${editor.chosen.size} lines`
      : found
        ? labelOf(found.item, bounds.languages)
        : ''
  editor.say(`${what} ${under}, position ${(found?.index ?? 0) + 1} of ${found?.siblings.length}.`)
}

function newLine(editor: Editor, row: Row): void {
  const finished = asWritten(editor.tree, row)
  const found = find(finished, row.item.id)
  if (!found) return
  const line = blankLine()
  const inside = canHold(found.item) && childrenOf(found.item).length > 0 && !editor.folded.has(row.item.id)
  const spot = inside
    ? { parentId: row.item.id, index: 0 }
    : { parentId: found.parentId, index: found.index + 1 }
  editor.edit(insert(finished, line, spot))
  editor.choose({ id: line.id, typing: true })
}

/** Undo and redo lead to what they changed, as if it were being done. */
function retrace(editor: Editor, goal: Tree | undefined, go: () => void, typing: boolean): void {
  if (!goal) return
  const id = changedAt(editor.tree, goal)
  go()
  if (id) editor.choose({ id, typing })
}

/** The label gives way to the title of the page that the line leads to. */
function backToTitle(editor: Editor, row: Row, typing: boolean): void {
  if (row.item.kind !== 'link' || !('page' in row.item.target)) {
    return editor.say('Only a line that leads to a page can take its title.')
  }
  const next = update(editor.tree, row.item.id, (item) => ({ ...item, label: {} }) as typeof item)
  editor.edit(next, { id: row.item.id, typing })
  editor.say('The line says what its page is called.')
}

/** A label of three hyphens is a divider, one that ends with a colon is a heading: as in the outline text. */
export function asWritten(tree: Tree, row: Row): Tree {
  const item = find(tree, row.item.id)?.item
  if (item?.kind !== 'link' || !('pending' in item.target)) return tree
  const entries = Object.entries(item.label ?? {})
  const words = entries[0]?.[1] ?? ''
  if (entries.length === 1 && words === '---')
    return update(tree, item.id, () => ({ id: item.id, kind: 'divider' }))
  if (entries.length > 0 && words.length > 1 && words.endsWith(':')) {
    const label = Object.fromEntries(
      entries.map(([tag, text]) => [tag, text.replace(/:$/, '').trim() || text]),
    )
    return update(tree, item.id, () => ({
      id: item.id,
      kind: 'heading',
      label,
      ...(item.items ? { items: item.items } : {}),
    }))
  }
  return tree
}

function leave(editor: Editor, row: Row, at: number): void {
  if (isBlank(row.item) && !row.hasChildren) {
    const next = editor.rows[at - 1] ?? editor.rows[at + 1]
    return editor.edit(remove(editor.tree, row.item.id), next ? { id: next.item.id, typing: false } : null)
  }
  editor.edit(asWritten(editor.tree, row), { id: row.item.id, typing: false })
}
