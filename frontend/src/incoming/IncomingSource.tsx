import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { answered, client, type Schemas } from '../api/client'
import { type Incoming, readData } from '../outline/clipboard'
import { flatten } from '../outline/tree'
import { labelOf, leadsTo } from '../outline/words'
import { Button } from '../parts/Button'
import { Choice } from '../parts/Choice'
import { Input, TextArea } from '../parts/Input'
import { Mark } from '../parts/Mark'
import { MenuSelect } from '../parts/MenuSelect'
import { Scrolled } from '../parts/Scrolled'
import { Told } from '../parts/Told'
import { Words } from '../parts/Words'

const SOURCES = ['paste or file', 'another menu', 'the live page'] as const
type Source = (typeof SOURCES)[number]

const READ_AS = ['whatever it is', 'outline', 'html', 'opml', 'csv', 'json'] as const

interface Props {
  site: string
  /** The menu that it goes into: what it has already is named. */
  into?: string
  languages: readonly string[]
  /** What was read, and which of its lines are wanted; null while nothing is. */
  onFound: (found: Incoming | null) => void
}

/** The sheet that it stands on, between a title and what is done with what was found. */
export const SOURCE_SHEET = 'h-[520px] w-[960px] grid-rows-[auto_minmax(0,1fr)_auto] gap-3 p-5'

/** Where lines come from, and what would come in: shown, with what was not understood, before anything is kept. */
export function IncomingSource({ site, into, languages, onFound }: Props) {
  const [source, setSource] = useState<Source>('paste or file')
  const [text, setText] = useState('')
  const [file, setFile] = useState<File | null>(null)
  const [readAs, setReadAs] = useState<(typeof READ_AS)[number]>('whatever it is')
  const [menu, setMenu] = useState('')
  const [path, setPath] = useState('/')
  const [at, setAt] = useState(0)
  const read = useMutation({
    mutationFn: async (): Promise<Incoming[]> => {
      const format = readAs === 'whatever it is' ? undefined : readAs
      if (source === 'paste or file') {
        const name = file?.name.replace(/\.[^.]*$/, '')
        return readData(site, file ? await file.arrayBuffer() : text, { format, into, name })
      }
      if (source === 'another menu') {
        const [from_site = '', from_menu = ''] = menu.split('/')
        return answered(
          client.GET('/api/sites/{site}/incoming/menu/{from_site}/{from_menu}', {
            params: { path: { site, from_site, from_menu }, query: { into } },
          }),
        )
      }
      return answered(
        client.POST('/api/sites/{site}/incoming/live', {
          params: { path: { site }, query: { into } },
          body: { path },
        }),
      )
    },
    onMutate: () => onFound(null),
    onSuccess: (found) => {
      setAt(0)
      onFound(found[0] ?? null)
    },
  })
  const found = read.data ?? []
  const shown = found[at]
  const ready =
    source === 'the live page' ||
    (source === 'another menu' ? menu !== '' : text.trim() !== '' || file !== null)
  const turnTo = (next: Source) => {
    setSource(next)
    read.reset()
    onFound(null)
  }
  return (
    <div className="grid min-h-0 grid-cols-[minmax(0,1fr)_minmax(0,1fr)] gap-5">
      <div className="flex min-h-0 flex-col gap-2">
        <Words
          name="Where it comes from"
          value={source}
          options={SOURCES}
          onChoose={turnTo}
          className="gap-x-3"
        />
        {source === 'paste or file' && (
          <>
            <TextArea
              aria-label="What to bring in"
              placeholder={
                'An outline, a list with bullets or tabs, HTML, OPML, CSV, JSON …\nOr drop a file here.'
              }
              value={file ? '' : text}
              disabled={file !== null}
              onChange={(event) => setText(event.target.value)}
              onDragOver={(event) => event.preventDefault()}
              onDrop={(event) => {
                event.preventDefault()
                setFile(event.dataTransfer.files[0] ?? null)
              }}
              onPaste={(event) => {
                // A list out of a page keeps its nesting and its links only as HTML.
                const html = event.clipboardData.getData('text/html')
                if (!/<(li|nav)\b/i.test(html)) return
                event.preventDefault()
                setText(html)
              }}
              className="mono min-h-[180px] flex-1 resize-none rounded-sign border-[1.5px] bg-paper p-2"
            />
            <div className="flex flex-wrap items-baseline gap-3 text-small text-ink-2">
              <label>
                or a file{' '}
                <input
                  type="file"
                  aria-label="A file"
                  className="max-w-[190px] text-small"
                  onChange={(event) => setFile(event.target.files?.[0] ?? null)}
                />
              </label>
              <label>
                read as{' '}
                <Choice
                  value={readAs}
                  onChoose={(value) => setReadAs(READ_AS.find((one) => one === value) ?? 'whatever it is')}
                >
                  {READ_AS.map((one) => (
                    <option key={one}>{one}</option>
                  ))}
                </Choice>
              </label>
            </div>
          </>
        )}
        {source === 'another menu' && (
          <span className="flex items-baseline gap-2 text-ink-2">
            copy of
            <MenuSelect
              except={into && `${site}/${into}`}
              value={menu}
              onChoose={setMenu}
              none="choose a menu"
            />
          </span>
        )}
        {source === 'the live page' && (
          <label className="flex items-baseline gap-2 text-ink-2">
            as it is now at
            <Input className="mono flex-1" value={path} onChange={(event) => setPath(event.target.value)} />
          </label>
        )}
        <Button className="self-start" disabled={!ready || read.isPending} onClick={() => read.mutate()}>
          {read.isPending ? 'Reading …' : 'Read it'}
        </Button>
        <Told error={read.error} />
      </div>
      <div className="flex min-h-0 flex-col gap-2">
        {found.length > 1 && (
          <label className="flex items-baseline gap-2 text-ink-2">
            {found.length} navigations; take
            <Choice
              value={at}
              onChoose={(value) => {
                const next = Number(value)
                setAt(next)
                onFound(found[next] ?? null)
              }}
            >
              {found.map((one, index) => (
                <option key={`${one.title} ${one.where} ${one.count}`} value={index}>
                  {one.title} ({one.where}, {one.count})
                </option>
              ))}
            </Choice>
          </label>
        )}
        {shown && <Preview found={shown} languages={languages} />}
      </div>
    </div>
  )
}

function Preview({ found, languages }: { found: Incoming; languages: readonly string[] }) {
  const rows = flatten(found.document.items ?? [], new Set())
  const already = new Set(found.already)
  return (
    <>
      <p>
        <b>{found.count === 1 ? '1 line' : `${found.count} lines`}</b>, {found.depth} levels
        {already.size > 0 &&
          `; ${already.size === 1 ? '1 leads' : `${already.size} lead`} where a line of this menu leads already`}
      </p>
      {found.notes.length > 0 && (
        <Scrolled label="Not understood" className="max-h-[96px] flex-none text-small">
          <ul>
            {found.notes.map((note: Schemas['Problem']) => (
              <li key={`${note.where} ${note.says}`}>
                <Mark kind="stop">{note.where}</Mark> {note.says}
              </li>
            ))}
          </ul>
        </Scrolled>
      )}
      <Scrolled label="What would come in" className="flex-1 border-t border-hair pt-1 text-body">
        <ul>
          {rows.slice(0, 300).map((row) => (
            <li
              key={row.item.id}
              className={`flex gap-2 truncate ${already.has(row.item.id) ? 'text-ink-3 line-through' : ''}`}
              style={{ paddingLeft: (row.level - 1) * 18 }}
            >
              <span className="mono w-[40px] flex-none text-right text-ink-2">{row.number}</span>
              <span className="font-semibold">{labelOf(row.item, languages) || row.item.kind}</span>
              <code className="truncate text-ink-2">{leadsTo(row.item)}</code>
            </li>
          ))}
          {rows.length > 300 && <li className="text-ink-2">and {rows.length - 300} more</li>}
        </ul>
      </Scrolled>
    </>
  )
}
