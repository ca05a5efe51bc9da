/** Cut, copy and paste of lines for the outline: what goes out is text, what comes in is read by the server. */
import { insertAll, itemsOf } from './block'
import { tooDeep } from './carryOut'
import { copyLines, isLines, pastedLines } from './clipboard'
import type { Limit } from './drop'
import { childrenOf, find, type Item, isBlank, remove, type Spot, type Tree } from './tree'
import type { Editor } from './useEditor'

interface Options {
  site: string
  menu: string
  language: string
  limit: Limit | null
}

export interface Clipboard {
  copy: (items: Item[], say: (words: string) => void) => void
  takes: (data: DataTransfer) => boolean
  paste: (data: DataTransfer, editor: () => Editor) => void
}

export function useClipboard({ site, menu, language, limit }: Options): Clipboard {
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
      pastedLines(site, data).then(
        ({ items, notes }) => putIn(editor(), items, notes, limit),
        (error: Error) => editor().say(`Nothing was pasted: ${error.message}`),
      )
    },
  }
}

const counted = (items: readonly Item[]): string => {
  const count = (all: readonly Item[]): number =>
    all.reduce((sum, item) => sum + 1 + count(childrenOf(item)), 0)
  const lines = count(items)
  return lines === 1 ? '1 line' : `${lines} lines`
}

/** The items below the line in focus (in its place, where it is blank), or at the end. */
export function putIn(editor: Editor, items: Item[], notes: readonly string[], limit: Limit | null): boolean {
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
  const told = notes.length > 0 ? ` Not understood: ${notes.slice(0, 3).join('; ')}` : ''
  editor.say(`Pasted ${counted(items)}.${told}`)
  return true
}
