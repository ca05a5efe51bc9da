/** Cut, copy and paste of lines for the outline: what goes out is text, what comes in is read by the server. */
import { insertAll, itemsOf } from './block'
import { tooDeep } from './carryOut'
import { copyLines, type Incoming, isLines, pastedLines } from './clipboard'
import type { Limit } from './drop'
import { childrenOf, find, type Item, isBlank, remove, type Spot, type Tree, withNewIds } from './tree'
import type { Editor } from './useEditor'

interface Options {
  site: string
  menu: string
  language: string
  limit: Limit | null
  /** A paste of which somebody has to decide something before it comes in. */
  onDoubt: (text: string, found: Incoming[]) => void
}

export interface Clipboard {
  copy: (items: Item[], say: (words: string) => void) => void
  takes: (data: DataTransfer) => boolean
  paste: (data: DataTransfer, editor: () => Editor) => void
}

export function useClipboard({ site, menu, language, limit, onDoubt }: Options): Clipboard {
  return {
    copy: (items, say) => {
      copyLines(site, menu, language, items).then(
        () => say(`Copied ${counted(items)}, as outline text.`),
        (error: Error) => say(`Not copied: ${error.message}`),
      )
    },
    takes: isLines,
    paste: (data, editor) => {
      // Events give their data away only while they last: it is read before the server is asked.
      pastedLines(site, menu, data).then(
        ({ text, found, copied }) => {
          if (!copied && found.some(isDoubtful)) onDoubt(text, found)
          else {
            const items = withNewIds(found.flatMap((one) => one.document.items ?? []))
            putIn(
              editor(),
              items,
              limit,
              found.flatMap((one) => one.notes),
            )
          }
        },
        (error: Error) => editor().say(`Nothing was pasted: ${error.message}`),
      )
    },
  }
}

/** Whether something in it was not understood, may lead to a page of that title, or stands in a column that nobody named. */
const isDoubtful = ({ notes, table, titles }: Incoming): boolean =>
  notes.length > 0 || (titles?.matches.length ?? 0) > 0 || table?.sure === false

const counted = (items: readonly Item[]): string => {
  const count = (all: readonly Item[]): number =>
    all.reduce((sum, item) => sum + 1 + count(childrenOf(item)), 0)
  const lines = count(items)
  return lines === 1 ? '1 line' : `${lines} lines`
}

/** The items below the line in focus (in its place, where it is blank), or at the end. */
export function putIn(
  editor: Editor,
  items: Item[],
  limit: Limit | null,
  notes: Incoming['notes'] = [],
): boolean {
  const { tree } = editor
  const at = editor.focus ? find(tree, editor.focus.id) : null
  const blank = at && isBlank(at.item) && childrenOf(at.item).length === 0
  const rest: Tree = blank ? remove(tree, at.item.id) : tree
  const spot: Spot = at
    ? { parentId: at.parentId, index: blank ? at.index : at.index + 1 }
    : { parentId: null, index: tree.length }
  const next = insertAll(rest, items, spot)
  const ids = items.map((item) => item.id)
  const refusal = itemsOf(next, ids).length > 0 ? tooDeep(next, ids, limit) : null
  if (refusal) {
    editor.say(`Nothing was pasted: ${refusal}. Paste it on a line further up.`)
    return false
  }
  const first = ids[0]
  if (!first) {
    editor.say('There was nothing to paste.')
    return false
  }
  editor.edit(next)
  editor.chooseMany(ids, { id: first, typing: false })
  const told = notes.slice(0, 3).map((one) => `${one.where}: ${one.says}`)
  editor.say(`Pasted ${counted(items)}.${told.length > 0 ? ` Not understood: ${told.join('; ')}` : ''}`)
  return true
}
