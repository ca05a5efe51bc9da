import { useMutation, useQuery } from '@tanstack/react-query'
import { Link, useNavigate, useSearch } from '@tanstack/react-router'
import { type FormEvent, useMemo, useRef, useState } from 'react'
import { answered, client, newKey } from '../../api/client'
import { useAnew } from '../../api/keys'
import { sessionQuery, sweptQuery } from '../../api/queries'
import { readSweep } from '../../app/sweep'
import { useLens } from '../../lens/useLens'
import { Button } from '../../parts/Button'
import { Empty } from '../../parts/Empty'
import { Input } from '../../parts/Input'
import { PageHead } from '../../parts/PageHead'
import { Told } from '../../parts/Told'
import { Words } from '../../parts/Words'
import { byMenu, type Foreseen, type Hit, nameOf } from './found'
import { InItsMenu } from './InItsMenu'
import { MakingFields } from './MakingFields'
import { ACTS, type Act, type Making, making, NOTHING_TYPED, titled } from './making'

const EXAMPLES = [
  'host:',
  'target:pending',
  'label:=',
  'place:',
  'finding:link-',
  'window:over',
  'kind:link -rule:any',
]
/** Of which it is worked out what would come of their entries, so that it is told as it goes. */
const SITES_AT_ONCE = 10
const ACT_KEYS = Object.keys(ACTS) as Act[]

/** Entries of all menus found by a query, and one change that makes the same edit of all of them. */
export function Sweep() {
  const { query = '' } = readSweep(useSearch({ strict: false }))
  const navigate = useNavigate()
  const [asked, setAsked] = useState(query)
  const [chosen, setChosen] = useState<Hit | null>(null)
  const field = useRef<HTMLInputElement>(null)
  const found = useQuery(sweptQuery(query))
  const lookFor = (event: FormEvent) => {
    event.preventDefault()
    setChosen(null)
    void navigate({
      to: '.',
      replace: true,
      search: (before: object) => ({ ...before, query: asked.trim() || undefined }),
    })
  }
  const begin = (text: string) => {
    setAsked((before) => (before.trim() ? `${before.trim()} ${text}` : text))
    field.current?.focus()
  }
  const hits = query && !found.error ? (found.data?.found ?? []) : []
  return (
    <div className="grid h-full min-h-0 grid-cols-[minmax(0,1fr)_350px] grid-rows-[auto_minmax(0,1fr)] gap-x-5 px-[18px] pt-3.5 max-lg:block max-lg:h-auto">
      <div className="col-span-full">
        <PageHead
          names={['Sweep']}
          beside={
            query && found.data
              ? `${found.data.entries === 1 ? '1 entry' : `${found.data.entries} entries`} at ${found.data.sites.length === 1 ? '1 site' : `${found.data.sites.length} sites`}`
              : 'the same edit in many menus'
          }
        />
        <form onSubmit={lookFor} className="flex flex-wrap items-baseline gap-2">
          <label htmlFor="sweep-query">Entries with</label>
          <Input
            ref={field}
            id="sweep-query"
            type="search"
            value={asked}
            onChange={(event) => setAsked(event.target.value)}
            maxLength={1_000}
            placeholder="host:old.example -place:footer"
            className="mono min-w-[320px] flex-1"
          />
          <Button type="submit">Find</Button>
        </form>
        <p className="mt-1 mb-2 flex flex-wrap gap-x-3 text-small text-ink-2">
          {EXAMPLES.map((one) => (
            <button
              key={one}
              type="button"
              className="mono underline decoration-dashed underline-offset-4 hover:text-ink"
              onClick={() => begin(one)}
            >
              {one}
            </button>
          ))}
        </p>
        {found.error && <Told error={found.error} />}
      </div>
      <div className="min-h-0 overflow-auto pb-4">
        {!query && (
          <Empty says="Say what to look for: words of a label or an address, or one of the beginnings above." />
        )}
        {query && found.data && hits.length === 0 && !found.error && (
          <Empty says="Nothing in any menu answers to this." />
        )}
        {hits.length > 0 && found.data && (
          <Found
            key={query}
            query={query}
            hits={hits}
            entries={found.data.entries}
            sites={found.data.sites}
            chosen={chosen}
            onChoose={setChosen}
          />
        )}
      </div>
      <aside
        aria-label="In its menu"
        className="min-h-0 overflow-auto border-l border-hair pb-4 pl-5 max-lg:border-0 max-lg:pl-0"
      >
        {chosen ? (
          <InItsMenu
            hit={chosen}
            found={
              new Set(
                hits
                  .filter((one) => one.site === chosen.site && one.menu === chosen.menu)
                  .map((one) => one.item),
              )
            }
          />
        ) : (
          hits.length > 0 && <p className="text-ink-2">Choose an entry to see it in its menu.</p>
        )}
      </aside>
    </div>
  )
}

interface FoundProps {
  query: string
  hits: readonly Hit[]
  /** How many there are; these may be the first of them. */
  entries: number
  /** All at which anything is found. */
  sites: readonly string[]
  chosen: Hit | null
  onChoose: (hit: Hit) => void
}

interface Looked {
  making: Making
  lines: ReadonlyMap<string, Foreseen>
  done: boolean
}

/** What is found, the edit that is to be made of it, and what would come of that for each. */
function Found({ query, hits, entries, sites, chosen, onChoose }: FoundProps) {
  const anew = useAnew()
  const lens = useLens()
  const mayEdit = useQuery(sessionQuery).data?.role !== 'viewer'
  const [act, setAct] = useState<Act>('retarget')
  const [typed, setTyped] = useState(NOTHING_TYPED)
  const [without, setWithout] = useState<ReadonlySet<string>>(new Set())
  const [title, setTitle] = useState<string | null>(null)
  const [looked, setLooked] = useState<Looked | null>(null)
  const [trouble, setTrouble] = useState<unknown>(null)
  const reading = useRef<AbortController | null>(null)
  const key = useRef<string | null>(null)
  const wanted = making(act, typed)
  const change = (next: () => void) => {
    reading.current?.abort()
    setLooked(null)
    setTrouble(null)
    key.current = null
    next()
  }
  const look = async (event: FormEvent) => {
    event.preventDefault()
    if (!wanted) return
    reading.current?.abort()
    const mine = new AbortController()
    reading.current = mine
    setTrouble(null)
    const lines = new Map<string, Foreseen>()
    setLooked({ making: wanted, lines, done: false })
    try {
      for (let at = 0; at < sites.length; at += SITES_AT_ONCE) {
        const body = { query, making: wanted, sites: sites.slice(at, at + SITES_AT_ONCE) }
        const told = await answered(
          client.POST('/api/sweeps/preview', { body, parseAs: 'text', signal: mine.signal }),
        )
        for (const line of String(told).split('\n').filter(Boolean)) {
          const one = JSON.parse(line) as Foreseen
          lines.set(nameOf(one), one)
        }
        setLooked({ making: wanted, lines: new Map(lines), done: false })
      }
      setLooked({ making: wanted, lines: new Map(lines), done: true })
    } catch (error) {
      if (mine.signal.aborted) return
      setLooked(null)
      setTrouble(error)
    }
  }
  const begin = useMutation({
    mutationFn: (body: { making: Making; title: string }) => {
      key.current ??= newKey()
      const left = [...without].map((name) => {
        const [site = '', menu = '', item = ''] = name.split(' ')
        return { site, menu, item }
      })
      return answered(
        client.POST('/api/sweeps', {
          body: { query, ...body, without: left },
          params: { header: { 'idempotency-key': key.current } },
        }),
      )
    },
    onSettled: () => anew.sites(),
  })
  const menus = useMemo(() => byMenu(hits), [hits])
  const does = [...(looked?.lines.values() ?? [])].filter(
    (one) => one.does.length > 0 && !without.has(nameOf(one)),
  )
  if (begin.data)
    return (
      <p role="status">
        “{begin.data.title}” makes the edit of{' '}
        {begin.data.entries === 1 ? '1 entry' : `${begin.data.entries} entries`} at{' '}
        {begin.data.sites.length === 1 ? '1 site' : `${begin.data.sites.length} sites`}.{' '}
        <Link to="/changes" search={{ ...lens, change: begin.data.change } as never} className="underline">
          Look at the change
        </Link>
      </p>
    )
  return (
    <>
      {mayEdit && (
        <form
          aria-label="The edit"
          onSubmit={(event) => void look(event)}
          className="mb-3 rounded-sign border border-edge bg-plate px-3 py-2"
        >
          <Words
            name="The edit"
            says="Of all of them:"
            value={act}
            options={ACT_KEYS}
            shown={ACTS}
            onChoose={(next) => change(() => setAct(next))}
            dotted
          />
          <div className="mt-1.5 flex flex-wrap items-baseline gap-x-3 gap-y-1">
            <MakingFields act={act} typed={typed} onType={(next) => change(() => setTyped(next))} />
            <Button type="submit" small disabled={!wanted}>
              See what comes of it
            </Button>
          </div>
          {trouble !== null && <Told error={trouble} />}
          {looked && (
            <div className="mt-2 flex flex-wrap items-baseline gap-x-3 gap-y-1 border-t border-hair pt-2">
              <span role="status">
                {looked.done
                  ? `${does.length} of ${entries} would be edited`
                  : `worked out for ${looked.lines.size} of ${entries} …`}
              </span>
              {looked.done && does.length > 0 && (
                <>
                  <label htmlFor="sweep-title" className="text-ink-2">
                    as
                  </label>
                  <Input
                    id="sweep-title"
                    value={title ?? titled(looked.making, query).slice(0, 200)}
                    maxLength={200}
                    onChange={(event) => setTitle(event.target.value)}
                    className="min-w-[240px] flex-1"
                  />
                  <Button
                    tone="go"
                    disabled={begin.isPending}
                    onClick={() =>
                      begin.mutate({
                        making: looked.making,
                        title: (title ?? titled(looked.making, query)).slice(0, 200),
                      })
                    }
                  >
                    Into a change
                  </Button>
                </>
              )}
            </div>
          )}
          <Told error={begin.error} />
        </form>
      )}
      {menus.map(({ first, hits: inMenu }) => (
        <section key={`${first.site} ${first.menu}`} aria-label={`${first.menu_name} of ${first.site_name}`}>
          <h2 className="mt-2 text-small">
            {first.site_name} <span className="text-ink-2">› {first.menu_name}</span>
          </h2>
          <ul>
            {inMenu.map((hit) => {
              const name = nameOf(hit)
              const line = looked?.lines.get(name)
              const out = without.has(name)
              return (
                <li
                  key={name}
                  className={`grid grid-cols-[20px_minmax(0,1fr)_minmax(0,1fr)] items-baseline gap-x-2 border-b border-hair py-0.5 ${out ? 'text-ink-3' : ''}`}
                >
                  {mayEdit ? (
                    <input
                      type="checkbox"
                      aria-label={`${hit.number} ${words(hit)} at ${hit.site_name}`}
                      checked={!out}
                      onChange={(event) => {
                        const next = new Set(without)
                        if (event.target.checked) next.delete(name)
                        else next.add(name)
                        key.current = null
                        setWithout(next)
                      }}
                    />
                  ) : (
                    <span />
                  )}
                  <button
                    type="button"
                    aria-pressed={chosen !== null && nameOf(chosen) === name}
                    onClick={() => onChoose(hit)}
                    className="truncate rounded-sign px-1 text-left hover:bg-paper-2 aria-pressed:bg-plate aria-pressed:outline-[1.5px] aria-pressed:-outline-offset-1 aria-pressed:outline-ink"
                  >
                    <span className="mono text-note text-ink-3">{hit.number}</span> {words(hit)}{' '}
                    <span className="mono text-note text-ink-2">{hit.leads_to ?? ''}</span>
                  </button>
                  <span className={`text-small ${line?.refused ? 'text-ink-3' : 'text-dusk'}`}>
                    {out ? 'left out' : line?.refused ? `stays: ${line.refused}` : line?.does.join('. ')}
                  </span>
                </li>
              )
            })}
          </ul>
        </section>
      ))}
      {entries > hits.length && (
        <p className="mt-2 text-small text-ink-2">
          And {entries - hits.length} more, which the edit is made of as well.
        </p>
      )}
    </>
  )
}

const words = (hit: Hit): string => hit.label.split('\n')[0] || hit.kind
