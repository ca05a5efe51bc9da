import { useMutation } from '@tanstack/react-query'
import { useEffect, useState } from 'react'
import { answered, client } from '../api/client'
import { type Incoming, readData } from '../outline/clipboard'
import type { Item } from '../outline/tree'
import { Button } from '../parts/Button'
import { Choice } from '../parts/Choice'
import { Input, TextArea } from '../parts/Input'
import { MenuSelect } from '../parts/MenuSelect'
import { Tick } from '../parts/Tick'
import { Told } from '../parts/Told'
import { Words } from '../parts/Words'
import { Columns } from './Columns'
import { Preview } from './Preview'
import { taken, type Wanted, wantedOf } from './taken'

const SOURCES = ['paste or file', 'another menu', 'the live page'] as const
type Source = (typeof SOURCES)[number]

const READ_AS = ['whatever it is', 'outline', 'html', 'opml', 'csv', 'json'] as const

interface Props {
  site: string
  /** The menu that it goes into: what it has already is named. */
  into?: string
  languages: readonly string[]
  /** What was pasted and read before this was opened. */
  begun?: Begun
  /** What was read, and the lines of it that are wanted; null while nothing is. */
  onFound: (found: Incoming | null, items: Item[]) => void
}

/** What was pasted, and what was read in it. */
export interface Begun {
  text: string
  found: Incoming[]
}

interface Said {
  columns?: string[]
  headed?: boolean
}

/** The sheet that it stands on, between a title and what is done with what was found. */
export const SOURCE_SHEET = 'h-[600px] w-[1080px] grid-rows-[auto_minmax(0,1fr)_auto] gap-3 p-5'

/** Where lines come from, and what would come in: shown, with what was not understood, before anything is kept. */
export function IncomingSource({ site, into, languages, begun, onFound }: Props) {
  const [source, setSource] = useState<Source>('paste or file')
  const [text, setText] = useState(begun?.text ?? '')
  const [file, setFile] = useState<File | null>(null)
  const [readAs, setReadAs] = useState<(typeof READ_AS)[number]>('whatever it is')
  const [menu, setMenu] = useState('')
  const [path, setPath] = useState('/')
  const [at, setAt] = useState(0)
  const [found, setFound] = useState<Incoming[]>(begun?.found ?? [])
  const [already, setAlready] = useState(true)
  const [titles, setTitles] = useState(true)
  const [wanted, setWanted] = useState<Wanted>(() => ({ out: new Set(), pages: new Map() }))
  const want = (shown: Incoming | null, next: Wanted) => {
    setWanted(next)
    onFound(shown, shown ? taken(shown.document.items ?? [], next) : [])
  }
  const turn = (next: number, all = found) => {
    const shown = all[next] ?? null
    setAt(next)
    if (shown) want(shown, wantedOf(shown, already, titles))
    else onFound(null, [])
  }
  // What was pasted is there at once.
  useEffect(() => {
    if (begun) turn(0, begun.found)
  }, [])
  const read = useMutation({
    mutationFn: async (said: Said): Promise<Incoming[]> => {
      const format = readAs === 'whatever it is' ? undefined : readAs
      if (source === 'paste or file') {
        const name = file?.name.replace(/\.[^.]*$/, '')
        return readData(site, file ? await file.arrayBuffer() : text, { format, into, name, ...said })
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
    onSuccess: (all) => {
      setFound(all)
      turn(0, all)
    },
    onError: () => forget(),
  })
  const shown = found[at]
  const ready =
    source === 'the live page' ||
    (source === 'another menu' ? menu !== '' : text.trim() !== '' || file !== null)
  const forget = () => {
    setFound([])
    onFound(null, [])
  }
  const turnTo = (next: Source) => {
    setSource(next)
    read.reset()
    forget()
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
        <Button className="self-start" disabled={!ready || read.isPending} onClick={() => read.mutate({})}>
          {read.isPending ? 'Reading …' : 'Read it'}
        </Button>
        <Told error={read.error} />
      </div>
      <div className="flex min-h-0 flex-col gap-2">
        {found.length > 1 && (
          <label className="flex items-baseline gap-2 text-ink-2">
            {found.length} menus; take
            <Choice
              value={at}
              onChoose={(value) => turn(Number(value))}
              options={found.map(
                (one, index) =>
                  [
                    String(index),
                    `${one.title} (${[one.where, one.count].filter(Boolean).join(', ')})`,
                  ] as const,
              )}
            />
          </label>
        )}
        {shown?.table && (
          <Columns table={shown.table} languages={languages} onSaid={(said) => read.mutate(said)} />
        )}
        {shown && (
          <>
            <span className="flex flex-wrap gap-x-4 text-small text-ink-2">
              {shown.already.length > 0 && (
                <Tick
                  checked={already}
                  onTick={(checked) => {
                    setAlready(checked)
                    want(shown, { ...wanted, out: wantedOf(shown, checked, titles).out })
                  }}
                >
                  leave out what is here already
                </Tick>
              )}
              {(shown.titles?.matches.length ?? 0) > 0 && (
                <Tick
                  checked={titles}
                  onTick={(checked) => {
                    setTitles(checked)
                    want(shown, { ...wanted, pages: wantedOf(shown, already, checked).pages })
                  }}
                >
                  lead to the pages of the same title
                </Tick>
              )}
            </span>
            <Preview
              found={shown}
              wanted={wanted}
              onWanted={(next) => want(shown, next)}
              languages={languages}
            />
          </>
        )}
      </div>
    </div>
  )
}
