import { useMemo, useState } from 'react'
import { languageName } from '../../lens/lens'
import { type Hit, hitsIn, patternOf, replaced, type Sought } from '../../outline/replace'
import type { Editor } from '../../outline/useEditor'
import { Button } from '../../parts/Button'
import { Empty } from '../../parts/Empty'
import { Input } from '../../parts/Input'
import { Mark } from '../../parts/Mark'
import { Scrolled } from '../../parts/Scrolled'
import { Sheet } from '../../parts/Sheet'
import { Tick } from '../../parts/Tick'

interface Props {
  editor: Editor
  languages: readonly string[]
  /** What is sought as it opens. */
  finding: string
  onClose: () => void
}

const BEGUN: Sought = { find: '', by: '', labels: true, addresses: true, exact: false }
const keyOf = (hit: Hit): string => `${hit.id} ${hit.field}`

/** Words in labels and addresses of the menu exchanged for others: each place is shown first, and can be left out. */
export function Replace({ editor, languages, finding, onClose }: Props) {
  const [sought, setSought] = useState<Sought>({ ...BEGUN, find: finding })
  const [out, setOut] = useState<ReadonlySet<string>>(new Set())
  const hits = useMemo(() => hitsIn(editor.tree, sought), [editor.tree, sought])
  const going = hits.filter((hit) => !hit.refused && !out.has(keyOf(hit)))
  const set = (change: Partial<Sought>) => setSought((before) => ({ ...before, ...change }))
  const toggle = (hit: Hit) => {
    const next = new Set(out)
    if (!next.delete(keyOf(hit))) next.add(keyOf(hit))
    setOut(next)
  }
  const replace = () => {
    editor.edit(replaced(editor.tree, going))
    editor.say(going.length === 1 ? 'Replaced in 1 place.' : `Replaced in ${going.length} places.`)
    onClose()
  }
  return (
    <Sheet
      title="Find and replace"
      onOpen={(open) => !open && onClose()}
      className="h-[560px] w-[760px] grid-rows-[auto_auto_minmax(0,1fr)_auto] gap-3 p-5"
    >
      <div className="flex flex-wrap items-baseline gap-x-4 gap-y-2 text-ink-2">
        <label className="flex items-baseline gap-2">
          find
          <Input
            className="w-[200px]"
            value={sought.find}
            onChange={(event) => set({ find: event.target.value })}
          />
        </label>
        <label className="flex items-baseline gap-2">
          replace by
          <Input
            className="w-[200px]"
            value={sought.by}
            onChange={(event) => set({ by: event.target.value })}
          />
        </label>
        {(
          [
            ['labels', 'in labels'],
            ['addresses', 'in addresses'],
            ['exact', 'capitals count'],
          ] as const
        ).map(([name, says]) => (
          <Tick key={name} checked={sought[name]} onTick={(checked) => set({ [name]: checked })}>
            {says}
          </Tick>
        ))}
      </div>
      <Scrolled label="Where it stands" className="border-t border-hair">
        {sought.find === '' && <Empty says="Every place is shown here before anything is replaced." />}
        {sought.find !== '' && hits.length === 0 && (
          <Empty says="Nothing in this menu has these words where they would become others." />
        )}
        <ul>
          {hits.map((hit) => (
            <li key={keyOf(hit)} className="flex items-baseline gap-2 border-b border-hair py-1">
              <input
                type="checkbox"
                aria-label={`Replace in ${hit.number}, ${hit.before}`}
                className="size-4 self-center"
                disabled={hit.refused !== null}
                checked={hit.refused === null && !out.has(keyOf(hit))}
                onChange={() => toggle(hit)}
              />
              <span className="mono w-[44px] flex-none text-right text-ink-2">{hit.number}</span>
              <span className="w-[80px] flex-none truncate text-small text-ink-2">
                {hit.field === 'address' ? 'address' : inLanguage(hit.field.slice(6), languages)}
              </span>
              <span className="min-w-0 break-words">
                <Marked text={hit.before} sought={sought} /> <span aria-hidden="true">→</span>{' '}
                <strong>{hit.after}</strong> {hit.refused && <Mark kind="stop">{hit.refused}</Mark>}
              </span>
            </li>
          ))}
        </ul>
      </Scrolled>
      <footer className="flex items-baseline gap-3">
        <span role="status" className="text-ink-2">
          {hits.length === 1 ? '1 place' : `${hits.length} places`}
        </span>
        <Button className="ml-auto" onClick={onClose}>
          Cancel
        </Button>
        <Button tone="go" disabled={going.length === 0} onClick={replace}>
          Replace {going.length > 0 ? going.length : ''}
        </Button>
      </footer>
    </Sheet>
  )
}

const inLanguage = (language: string, languages: readonly string[]): string =>
  language === languages[0] ? 'label' : languageName(language)

/** The text with what is sought marked in it. */
function Marked({ text, sought }: { text: string; sought: Sought }) {
  const pattern = patternOf(sought)
  if (!pattern) return text
  const pieces: { at: number; text: string; hit: boolean }[] = []
  let end = 0
  for (const found of text.matchAll(pattern)) {
    pieces.push({ at: end, text: text.slice(end, found.index), hit: false })
    pieces.push({ at: found.index, text: found[0], hit: true })
    end = found.index + found[0].length
  }
  pieces.push({ at: end, text: text.slice(end), hit: false })
  return pieces.map((piece) =>
    piece.hit ? (
      <mark key={`${piece.at} hit`} className="bg-signal-ground text-ink line-through">
        {piece.text}
      </mark>
    ) : (
      <span key={piece.at}>{piece.text}</span>
    ),
  )
}
