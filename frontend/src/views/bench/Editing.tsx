import { useQuery } from '@tanstack/react-query'
import { useRouter, useRouterState } from '@tanstack/react-router'
import {
  type ReactNode,
  startTransition,
  useCallback,
  useDeferredValue,
  useEffect,
  useMemo,
  useRef,
  useState,
} from 'react'
import { flushSync } from 'react-dom'
import type { Schemas } from '../../api/client'
import { useAnew } from '../../api/keys'
import { resolvedQuery } from '../../api/queries'
import { whenBack } from '../../api/session'
import { useOnLines, useThere } from '../../api/there'
import type { Begun } from '../../incoming/IncomingSource'
import { spoken } from '../../lens/lens'
import { useLens } from '../../lens/useLens'
import type { Incoming } from '../../outline/clipboard'
import type { Limit } from '../../outline/drop'
import { type Choosing, Outline } from '../../outline/Outline'
import { historyFor, type Remembered, remember } from '../../outline/remembered'
import { Saver, type SaveState } from '../../outline/saver'
import { type MenuDocument, written } from '../../outline/tree'
import { readUnsaved } from '../../outline/unsaved'
import { useEditor } from '../../outline/useEditor'
import { isAtWork } from '../../parts/atWork'
import { Button } from '../../parts/Button'
import { finishAll, useAnythingUnfinished } from '../../parts/unfinished'
import { useAfterPaint } from '../../parts/useAfterPaint'
import { useNarrow } from '../../parts/useNarrow'
import { usePrinting } from '../../parts/usePrinting'
import { useTitle } from '../../parts/useTitle'
import { useUnhurried } from '../../parts/useUnhurried'
import { BenchHeader } from './BenchHeader'
import { BringIn } from './BringIn'
import { ConflictDialog } from './ConflictDialog'
import { Findings } from './Findings'
import { fitted } from './fitted'
import { ItemPanel } from './ItemPanel'
import { MenuTrack } from './MenuTrack'
import { OutlineTools } from './OutlineTools'
import { Past } from './Past'
import { Printed } from './Printed'
import { Replace } from './Replace'
import type { Suggestion } from './Ruler'
import { Strip, StripToCome } from './Strip'
import { useFold } from './useFold'

/** How long the header tells what came in from somebody else. */
const MERGE_TOLD_MS = 15_000
/** The pause after which the undo history is kept in the browser. */
const REMEMBER_MS = 700
/** What changes this soon after a key press was done by it. */
const KEY_MS = 50
/** Longer than between two keys of somebody who types 100 words a minute, shorter than a look to the side. */
const REST_MS = 125

interface Props {
  person: string
  /** That reading the menu again failed. */
  trouble: ReactNode
  bench: Schemas['BenchPage']
  remembered: Remembered | null
  editable: boolean
}

export function Editing({ person, trouble, bench, remembered, editable }: Props) {
  const { site, key } = bench
  const lens = useLens()
  // The lines come first. What stands around them keeps its room until they are painted, and is asked for then.
  const painted = useAfterPaint()
  const anew = useAnew()
  const unsaved = useMemo(
    () => (editable ? readUnsaved(person, site.key, key) : null),
    [person, site.key, key, editable],
  )
  const opened = unsaved?.document ?? bench.document
  const past = useMemo(
    () =>
      historyFor(remembered, {
        hash: bench.hash,
        name: opened.name,
        tree: opened.items ?? [],
        unsaved: unsaved !== null,
      }),
    [],
  )
  const languages = useMemo(() => spoken(site.languages, lens), [site.languages, lens.language])
  const editor = useEditor({ name: opened.name, tree: opened.items ?? [] }, past, languages)
  const { name } = editor
  useTitle(name, site.name)
  const [hash, setHash] = useState(bench.hash)
  const [changes, setChanges] = useState(bench.changes)
  // Read again after a release: what differs from live is another by then.
  useEffect(() => setChanges(bench.changes), [bench])
  const [save, setSave] = useState<SaveState>({ status: 'saved', at: bench.saved_at })
  const [later, setLater] = useState(false)
  const settleNow = useCallback(() => setLater(false), [])
  const [kept, setKept] = useState(true)
  const [merged, setMerged] = useState<{ by: string[]; did: string[] } | null>(null)
  useEffect(() => {
    const timer = merged && window.setTimeout(() => setMerged(null), MERGE_TOLD_MS)
    return () => window.clearTimeout(timer ?? undefined)
  }, [merged])
  const [choosing, setChoosing] = useState<Choosing | null>(null)
  const [second, setSecond] = useState<string | null>(null)
  const [bringing, setBringing] = useState<Begun | boolean>(false)
  const [looking, setLooking] = useState(false)
  const findField = useRef<HTMLInputElement>(null)

  const shown = useRef<{ tree: typeof editor.tree; name: string }>({
    tree: past && !unsaved ? past.present.tree : (bench.document.items ?? []),
    name: bench.document.name,
  })
  const adopt = useCallback(
    (document: MenuDocument, sent: MenuDocument) => {
      // Against what was sent: what is typed since, and lines that are still blank, stay.
      const stateOf = ({ name, items }: MenuDocument) => ({ name, tree: items ?? [] })
      const tree = editor.bring(stateOf(sent), stateOf(document))
      const all = JSON.stringify(written(tree)) === JSON.stringify(document.items ?? [])
      if (all) shown.current = { tree, name: document.name }
    },
    [editor.bring],
  )
  const saver = useMemo(
    () =>
      new Saver(person, site, key, unsaved?.hash ?? bench.hash, bench.document, {
        state: setSave,
        saved: (next, edits, opened) => {
          setHash(next)
          setChanges(edits)
          // The lens names the change; the first save in it opens it.
          if (opened) void anew.site(site.key)
        },
        adopt,
        merged: (by, did) => setMerged({ by, did }),
        kept: setKept,
      }),
    [],
  )
  // What was read before one's own last save is older than what one sees.
  const newer = save.status === 'saved' && bench.hash !== hash && bench.saved_at > save.at
  useEffect(() => {
    if (!newer) return
    // Not within the drawing, which cannot be drawn anew at once.
    const timer = window.setTimeout(() => {
      // What was typed a moment ago is not on its way yet: then it meets what came in as it is saved.
      if (shown.current.tree !== editor.now() || !saver.newer(bench.hash, bench.document)) return
      adopt(bench.document, asItIs())
      setHash(bench.hash)
      setSave({ status: 'saved', at: bench.saved_at })
      editor.say('What was saved elsewhere came in.')
    })
    return () => window.clearTimeout(timer)
  }, [newer, bench, saver, adopt, editor.say])
  const { tree, history } = editor
  const document = useCallback(
    (): MenuDocument => ({ format: 'sign-shelf/menu', version: 1, name, items: written(tree) }),
    [name, tree],
  )
  useEffect(() => {
    if (!editable || (shown.current.tree === tree && shown.current.name === name)) return
    shown.current = { tree, name }
    saver.changed(document)
  }, [tree, name, editable, saver, document])
  useEffect(() => {
    saver.home = bench.site.change?.id
  }, [saver, bench])
  useEffect(
    () => () => void saver.leave().then((wrote) => wrote && anew.site(site.key)),
    [saver, anew, site.key],
  )
  useEffect(() => whenBack(() => saver.again()), [saver])
  const settled = save.status === 'saved'
  useEffect(() => {
    if (settled) setLater(false)
  }, [settled])
  const typing = useAnythingUnfinished()
  const busy = save.status !== 'saved' || typing
  useEffect(() => {
    const timer = window.setTimeout(
      () => void remember(person, site.key, key, { hash: busy ? null : hash, history }),
      REMEMBER_MS,
    )
    return () => window.clearTimeout(timer)
  }, [person, site.key, key, hash, busy, history])
  useEffect(() => {
    const guard = (event: BeforeUnloadEvent) => (busy || saver.waits) && event.preventDefault()
    const keep = () => {
      // What was typed just now may not be drawn yet, and nobody says that it waits.
      flushSync(finishAll)
      if (!saver.waits) return
      saver.keep()
      void remember(person, site.key, key, { hash: null, history })
    }
    window.addEventListener('beforeunload', guard)
    window.addEventListener('pagehide', keep)
    return () => {
      window.removeEventListener('beforeunload', guard)
      window.removeEventListener('pagehide', keep)
    }
  }, [busy, saver, person, site.key, key, history])

  const router = useRouter()
  useEffect(() => router.subscribe('onBeforeNavigate', () => flushSync(finishAll)), [router])

  const place = bench.places.find((one) => one.device === lens.device) ?? bench.places[0]
  const limit = useMemo<Limit | null>(() => {
    const strictest = [...bench.places].sort((a, b) => a.depth - b.depth)[0]
    return strictest ? { depth: strictest.depth, title: strictest.title } : null
  }, [bench.places])
  const got = useQuery({
    ...resolvedQuery(
      site.key,
      key,
      { ...lens, language: languages[0] ?? 'en' },
      place?.device === lens.device ? place.location : null,
      hash,
    ),
    enabled: painted,
  })
  const hidden = useMemo(() => new Map(got.data?.hidden.map((one) => [one.id, one.detail])), [got.data])
  const bounds = useMemo(() => ({ languages, limit }), [languages, limit])
  const revealing = useRef(editor.reveal)
  revealing.current = editor.reveal
  const reveal = useCallback((id: string) => revealing.current(id), [])
  const fix = useCallback((id: string) => {
    revealing.current(id)
    // The line is drawn, and scrolled to, before what is chosen for it can stand below it.
    requestAnimationFrame(() => {
      const line = window.document.getElementById(`line-${id}`)
      if (line) setChoosing({ id, anchor: line.getBoundingClientRect() })
    })
  }, [])
  const rowOf = (id: string | undefined) => editor.rows.find((row) => row.item.id === id) ?? null
  const focused = rowOf(editor.focus?.id)
  // What is beside the outline follows a moment later, and whoever runs over line after line is not followed until they
  // rest at one: no key waits for it.
  const pressedAt = useRef(0)
  const hurried = useCallback(() => performance.now() - pressedAt.current < KEY_MS, [])
  const rested = useRef(focused)
  rested.current =
    rowOf(useUnhurried(focused?.item.id, hurried, REST_MS)) ??
    (rested.current ? focused && rested.current : focused)
  const restingAt = rested.current
  const now = useMemo(() => ({ editor, row: focused }), [editor, focused])
  const calm = useDeferredValue(useMemo(() => ({ editor, row: restingAt }), [editor, restingAt]))
  const [inPanel, setInPanel] = useState(false)
  const { folded, fold } = useFold()
  const narrow = useNarrow()
  const [pane, setPane] = useState<'outline' | 'entry'>('outline')
  const panel = inPanel ? now : calm
  const bringBack = useCallback(
    (earlier: MenuDocument, says: string) => {
      editor.put({ name: earlier.name, tree: earlier.items ?? [] })
      editor.say(says)
    },
    [editor.put, editor.say],
  )
  const latest = useRef(document)
  latest.current = document
  const asItIs = useCallback(() => latest.current(), [])
  const flush = useCallback(() => saver.flush(), [saver])
  const bringIn = useCallback(() => setBringing(true), [])
  const [replacing, setReplacing] = useState(false)
  const replace = useCallback(() => setReplacing(true), [])
  const doubt = useCallback((text: string, found: Incoming[]) => setBringing({ text, found }), [])
  const lookBack = useCallback(() => void saver.flush().then(() => setLooking(true)), [saver])
  // The chosen line is in the address, and an address with a line leads to it.
  const named = useRouterState({ select: (state) => state.location.hash })
  const noted = useRef('')
  // Lines that were put there for being chosen: the router tells of them later, when another may be chosen already.
  const put = useRef(new Set<string>())
  useEffect(() => {
    if (named === noted.current) put.current.clear()
    if (!named || named === noted.current || put.current.has(named)) return
    noted.current = named
    revealing.current(named)
  }, [named])
  const restsAt = restingAt?.item.id
  const meets = useMemo(
    () =>
      save.status === 'conflict'
        ? save.conflicts.map(({ title, field, ours, theirs }) => ({
            title,
            field: field ?? '',
            ours,
            theirs,
          }))
        : undefined,
    [save],
  )
  const people = useThere(bench.site.change?.id, { site: site.key, menu: key, item: restsAt, meets })
  const onLines = useOnLines(people, site.key, key)
  useEffect(() => {
    if (!painted || !restsAt || noted.current === restsAt) return
    noted.current = restsAt
    put.current.add(restsAt)
    const { pathname, search } = window.location
    window.history.replaceState(window.history.state, '', `${pathname}${search}#${restsAt}`)
  }, [painted, restsAt])
  const suggesting = useRef((_: Suggestion) => {})
  suggesting.current = (one) => {
    editor.edit(fitted(editor.tree, one, languages[0] ?? 'en'), null)
    editor.say(`${one.says}.`)
  }
  const suggest = useCallback((one: Suggestion) => suggesting.current(one), [])
  const find = useCallback(() => {
    findField.current?.focus()
    findField.current?.select()
  }, [])

  const itemPanel = (
    <ItemPanel
      site={site}
      menu={key}
      hash={hash}
      editor={panel.editor}
      row={panel.row}
      bounds={bounds}
      hidden={panel.row ? hidden.get(panel.row.item.id) : undefined}
      editable={editable}
      onChoosing={setChoosing}
    />
  )

  // Who opens a menu goes on with the keyboard in its outline, at the line that the address names or at the first.
  const first = useRef(editor.rows[0]?.item.id)
  useEffect(() => {
    if (!isAtWork() && first.current && !window.location.hash)
      editor.choose({ id: first.current, typing: false })
  }, [editor.choose])
  const printing = usePrinting()
  if (printing)
    return <Printed editor={editor} name={name} site={site.name} languages={languages} hidden={hidden} />
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: undo works wherever the focus is on the bench
    <div
      className={`grid h-full ${narrow ? 'grid-cols-[minmax(0,1fr)]' : 'grid-cols-[minmax(0,1fr)_400px]'} grid-rows-[auto_auto_auto_minmax(0,1fr)_auto]`}
      onKeyDownCapture={() => {
        pressedAt.current = performance.now()
      }}
      onKeyDown={(event) => {
        if (!(event.ctrlKey || event.metaKey) || event.defaultPrevented) return
        const letter = event.key.toLowerCase()
        if (letter === 'f') {
          event.preventDefault()
          find()
        }
        if (letter === 'z' && editable && !(event.target instanceof HTMLInputElement)) {
          event.preventDefault()
          if (event.shiftKey) editor.redo()
          else editor.undo()
        }
      }}
    >
      {trouble && <div className="absolute inset-x-0 top-0 z-30">{trouble}</div>}
      <BenchHeader
        bench={bench}
        name={name}
        onName={editor.rename}
        save={save}
        kept={kept}
        onSettle={settleNow}
        merged={merged}
        people={people}
        changes={changes}
        document={asItIs}
        onMended={bringBack}
        onItem={reveal}
        editor={calm.editor}
        editable={editable}
        flush={flush}
      />
      {painted ? (
        <>
          <Strip
            bench={bench}
            hash={hash}
            chosen={calm.row?.item.id ?? null}
            onItem={reveal}
            editable={editable}
            onSuggestion={suggest}
            folded={folded}
            onFold={fold}
          />
          {folded ? <span className="col-span-full" /> : <MenuTrack bench={bench} hash={hash} />}
        </>
      ) : (
        <>
          <StripToCome folded={folded} />
          <span className="col-span-full" />
        </>
      )}
      <section
        aria-label="Outline"
        className={`flex min-h-0 flex-col ${narrow ? '' : 'border-r border-hair'} ${narrow && pane === 'entry' ? 'hidden' : ''}`}
      >
        <OutlineTools
          bench={bench}
          editor={calm.editor}
          finding={editor.finding}
          editable={editable}
          languages={languages}
          second={second}
          onSecond={setSecond}
          findField={findField}
          onBringIn={bringIn}
          onReplace={replace}
          onHistory={lookBack}
          onEntry={narrow ? () => setPane('entry') : null}
        />
        <Outline
          site={site.key}
          menu={key}
          hash={hash}
          editor={editor}
          languages={languages}
          second={second === languages[0] ? null : second}
          limit={limit}
          hidden={hidden}
          onLines={onLines}
          editable={editable}
          choosing={choosing}
          onChoosing={setChoosing}
          onFind={find}
          onDoubt={doubt}
        />
      </section>
      {/* biome-ignore lint/a11y/noStaticElementInteractions: only told whether the focus is in it */}
      <div
        className="contents"
        onFocus={() => setInPanel(true)}
        // Together with what is deferred: otherwise the panel would show, for a moment, what was before.
        onBlur={() => startTransition(() => setInPanel(false))}
      >
        {narrow && pane === 'entry' && (
          <div className="flex min-h-0 flex-col">
            <p className="border-b border-hair px-[18px] py-1">
              <Button small onClick={() => setPane('outline')}>
                The outline
              </Button>
            </p>
            {itemPanel}
          </div>
        )}
        {!narrow && painted && itemPanel}
      </div>
      {painted && (
        <Findings
          site={site.key}
          menu={key}
          hash={hash}
          at={lens.at}
          editable={editable}
          onItem={reveal}
          onFix={fix}
        />
      )}
      {bringing && (
        <BringIn
          bench={bench}
          editor={editor}
          limit={limit}
          languages={languages}
          begun={bringing === true ? undefined : bringing}
          onOpen={setBringing}
        />
      )}
      {replacing && (
        <Replace
          editor={editor}
          languages={languages}
          finding={editor.finding}
          onClose={() => setReplacing(false)}
        />
      )}
      {looking && (
        <Past
          bench={{ ...bench, hash }}
          languages={languages}
          editable={editable}
          onOpen={setLooking}
          onBack={bringBack}
        />
      )}
      {save.status === 'conflict' && !later && (
        <ConflictDialog
          conflict={save}
          onLater={() => setLater(true)}
          mine={asItIs}
          onLook={(choices) => saver.seen(asItIs(), save, choices)}
          onSettle={(choices) => saver.settle(document(), save, choices)}
        />
      )}
    </div>
  )
}
