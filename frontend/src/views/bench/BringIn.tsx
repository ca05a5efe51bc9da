import { useState } from 'react'
import type { Schemas } from '../../api/client'
import { IncomingSource, SOURCE_SHEET } from '../../incoming/IncomingSource'
import type { Incoming } from '../../outline/clipboard'
import type { Limit } from '../../outline/drop'
import { childrenOf, type Item, type Tree, withChildren, withNewIds } from '../../outline/tree'
import { putIn } from '../../outline/useClipboard'
import type { Editor } from '../../outline/useEditor'
import { labelOf } from '../../outline/words'
import { Button } from '../../parts/Button'
import { Sheet } from '../../parts/Sheet'

interface Props {
  bench: Schemas['BenchPage']
  editor: Editor
  limit: Limit | null
  languages: readonly string[]
  onOpen: (open: boolean) => void
}

/** Lines from elsewhere into this menu, below the chosen line or at its end. */
export function BringIn({ bench, editor, limit, languages, onOpen }: Props) {
  const [found, setFound] = useState<Incoming | null>(null)
  const [skip, setSkip] = useState(true)
  const below = editor.rows.find((row) => row.item.id === editor.focus?.id)
  const items = found ? wanted(found.document.items ?? [], skip ? new Set(found.already) : null) : []
  return (
    <Sheet title={`Bring lines into ${bench.document.name}`} onOpen={onOpen} className={SOURCE_SHEET}>
      <IncomingSource site={bench.site.key} into={bench.key} languages={languages} onFound={setFound} />
      <footer className="flex items-baseline gap-4">
        {found && found.already.length > 0 && (
          <label className="flex items-baseline gap-2">
            <input type="checkbox" checked={skip} onChange={(event) => setSkip(event.target.checked)} />
            leave out what is here already
          </label>
        )}
        <span className="ml-auto text-ink-2">
          {below ? `below ${below.number} ${labelOf(below.item, languages)}` : 'at the end'}
        </span>
        <Button onClick={() => onOpen(false)}>Cancel</Button>
        <Button
          tone="go"
          disabled={items.length === 0}
          onClick={() => putIn(editor, withNewIds(items), [], limit) && onOpen(false)}
        >
          Bring in
        </Button>
      </footer>
    </Sheet>
  )
}

/** Without the links that are there already; what stands below one moves up, and headings left empty go. */
function wanted(items: Tree, already: ReadonlySet<string> | null): Item[] {
  if (!already) return [...items]
  return items.flatMap((item) => {
    const had = childrenOf(item)
    const below = wanted(had, already)
    if (already.has(item.id)) return below
    if (item.kind === 'heading' && had.length > 0 && below.length === 0) return []
    return [withChildren(item, below)]
  })
}
