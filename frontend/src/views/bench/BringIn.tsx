import { useRef, useState } from 'react'
import type { Schemas } from '../../api/client'
import { type Begun, IncomingSource, SOURCE_SHEET } from '../../incoming/IncomingSource'
import type { Limit } from '../../outline/drop'
import { type Item, withNewIds } from '../../outline/tree'
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
  /** What was pasted, where something of it has to be decided. */
  begun?: Begun
  onOpen: (open: boolean) => void
}

/** Lines from elsewhere into this menu, below the chosen line or at its end. */
export function BringIn({ bench, editor, limit, languages, begun, onOpen }: Props) {
  const [items, setItems] = useState<readonly Item[]>([])
  const came = useRef<string | undefined>(undefined)
  /** At the first of the lines that came. */
  const goOn = (): boolean => {
    const line = came.current ? document.getElementById(`line-${came.current}`) : null
    line?.focus()
    return line !== null
  }
  const below = editor.rows.find((row) => row.item.id === editor.focus?.id)
  return (
    <Sheet
      title={`Bring lines into ${bench.document.name}`}
      onOpen={onOpen}
      className={SOURCE_SHEET}
      goOn={goOn}
    >
      <IncomingSource
        site={bench.site.key}
        into={bench.key}
        languages={languages}
        begun={begun}
        onFound={(_, taken) => setItems(taken)}
      />
      <footer className="flex items-baseline gap-4">
        <span className="ml-auto text-ink-2">
          {below ? `below ${below.number} ${labelOf(below.item, languages)}` : 'at the end'}
        </span>
        <Button onClick={() => onOpen(false)}>Cancel</Button>
        <Button
          tone="go"
          disabled={items.length === 0}
          onClick={() => {
            const mine = withNewIds(items)
            if (!putIn(editor, mine, limit)) return
            came.current = mine[0]?.id
            onOpen(false)
          }}
        >
          Bring in
        </Button>
      </footer>
    </Sheet>
  )
}
