import { useQuery } from '@tanstack/react-query'
import { useNavigate } from '@tanstack/react-router'
import { Dialog } from 'radix-ui'
import { useEffect, useRef, useState } from 'react'
import type { Schemas } from '../api/client'
import { searchQuery } from '../api/queries'
import { useLens } from '../lens/useLens'
import { Combobox } from '../parts/Combobox'
import { Told } from '../parts/Told'
import { useSettled } from '../parts/useSettled'
import { doAct, useActNames } from './acts'

interface Way {
  key: string
  says: string
  /** What it is, and where. */
  beside: string
  go: () => void
}

const PAUSE_MS = 120
const VIEWS = [
  { to: '/shelf', says: 'Shelf' },
  { to: '/take-in', says: 'Take in a site' },
  { to: '/changes', says: 'Changes' },
  { to: '/calendar', says: 'Calendar' },
  { to: '/findings', says: 'Findings' },
  { to: '/placeholders', says: 'Placeholders' },
  { to: '/ledger', says: 'Ledger' },
  { to: '/setup', says: 'Setup' },
  { to: '/you', says: 'You, and where you are signed in' },
] as const

/** One line that goes anywhere and does anything, by name: a few letters of a site and a menu are enough. */
export function WhereTo() {
  const [open, setOpen] = useState(false)
  const went = useRef(false)
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      if (!(event.ctrlKey || event.metaKey) || event.key !== '.') return
      event.preventDefault()
      setOpen(true)
    }
    window.addEventListener('keydown', press)
    return () => window.removeEventListener('keydown', press)
  }, [])
  return (
    <Dialog.Root open={open} onOpenChange={setOpen}>
      <Dialog.Trigger className="border-b border-hair text-ink-2 hover:text-ink" title="Ctrl and full stop">
        where to?
      </Dialog.Trigger>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-ink/20" />
        <Dialog.Content
          aria-describedby={undefined}
          // Who went somewhere goes on there, and not at the button from which they left.
          onCloseAutoFocus={(event) => {
            if (went.current) event.preventDefault()
            went.current = false
          }}
          className="fixed top-[46px] right-[18px] z-50 w-[560px] max-w-[94vw] rounded-sign border-[1.5px] border-ink bg-plate"
        >
          <Dialog.Title className="sr-only">Where to?</Dialog.Title>
          <Ways
            onLeave={() => {
              went.current = true
              setOpen(false)
            }}
          />
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  )
}

function Ways({ onLeave }: { onLeave: () => void }) {
  const lens = useLens()
  const navigate = useNavigate()
  const acts = useActNames()
  const [words, setWords] = useState('')
  const [at, setAt] = useState(0)
  const asked = useSettled(words.trim(), PAUSE_MS)
  const found = useQuery({ ...searchQuery(asked), enabled: asked !== '' })
  const holds = (text: string) =>
    words
      .toLowerCase()
      .split(/\s+/)
      .every((word) => text.toLowerCase().includes(word))
  const ways: Way[] = [
    ...acts
      .filter(holds)
      .map((name) => ({ key: `act ${name}`, says: name, beside: 'do it here', go: () => doAct(name) })),
    ...VIEWS.filter((one) => holds(one.says)).map((one) => ({
      key: one.to,
      says: one.says,
      beside: 'open it',
      go: () => void navigate({ to: one.to, search: lens }),
    })),
    ...(words.trim() && found.data
      ? waysOf(found.data, (path, hash) => void navigate({ ...path, search: lens, hash }))
      : []),
  ]
  const chosen = Math.min(at, ways.length - 1)
  // What was found for fewer letters is not gone to: Enter waits for what is found for all of them.
  const settled =
    asked === words.trim() && (asked === '' || (found.data !== undefined && !found.isPlaceholderData))
  const [entered, setEntered] = useState(false)
  const go = (way: Way | undefined) => {
    if (!way) return
    onLeave()
    way.go()
  }
  const going = useRef(go)
  going.current = go
  const first = ways[chosen]
  useEffect(() => {
    if (entered && (settled || found.isError)) {
      setEntered(false)
      if (settled) going.current(first)
    }
  }, [entered, settled, found.isError, first])
  return (
    <>
      <Combobox
        label="Where to, or what to do"
        listLabel="Ways"
        words={words}
        onWords={(next) => {
          setWords(next)
          setAt(0)
          setEntered(false)
        }}
        options={ways}
        keyOf={(way) => way.key}
        at={chosen}
        onAt={setAt}
        onEnter={(way) => {
          if (settled || (way && isHere(way))) go(way)
          else setEntered(true)
        }}
        onTake={go}
        placeholder="a site, a menu, an entry, a page, something to do"
        className="px-4 py-2.5 text-head"
        listClassName="max-h-[60vh] p-2"
      >
        {(way, isChosen) => (
          <>
            <span className={`min-w-0 truncate ${isChosen ? 'font-semibold' : ''}`}>{way.says}</span>
            <span className="ml-auto min-w-0 truncate text-small text-ink-2">{way.beside}</span>
          </>
        )}
      </Combobox>
      <Told error={found.error} />
      {ways.length === 0 && (
        <p role="status" className="px-4 pb-3 text-ink-2">
          {found.isFetching || asked !== words.trim() ? 'Looking …' : 'Nothing is called so.'}
        </p>
      )}
    </>
  )
}

/** Whether it was not looked for, but is what can be done or opened in any case. */
const isHere = (way: Way): boolean => way.beside === 'do it here' || way.beside === 'open it'

type Path =
  | { to: '/sites/$site'; params: { site: string } }
  | { to: '/sites/$site/menus/$menu'; params: { site: string; menu: string } }
  | { to: '/sites/$site/pages'; params: { site: string } }
  | { to: '/setup' }

function waysOf(found: Schemas['Found'], go: (path: Path, hash?: string) => void): Way[] {
  const hangs = (site: string, menu: string) => found.hangs[`${site}/${menu}`]?.join(', ') || 'hangs nowhere'
  return [
    ...found.sites.map(({ key, name }) => ({
      key: `site ${key}`,
      says: name,
      beside: 'site',
      go: () => go({ to: '/sites/$site', params: { site: key } }),
    })),
    ...found.menus.map(({ site, site_name, menu, name }) => ({
      key: `menu ${site} ${menu}`,
      says: `${site_name} › ${name}`,
      beside: hangs(site, menu),
      go: () => go({ to: '/sites/$site/menus/$menu', params: { site, menu } }),
    })),
    ...found.entries.map((one) => ({
      key: `entry ${one.site} ${one.menu} ${one.item}`,
      says: `${one.number} ${one.label || one.leads_to || one.kind}`,
      beside: `${one.site_name} › ${one.menu_name}, ${hangs(one.site, one.menu)}`,
      go: () => go({ to: '/sites/$site/menus/$menu', params: { site: one.site, menu: one.menu } }, one.item),
    })),
    ...found.pages.map((one) => ({
      key: `page ${one.site} ${one.ref}`,
      says: one.title,
      beside: `page ${one.path} of ${one.site_name}`,
      go: () => go({ to: '/sites/$site/pages', params: { site: one.site } }),
    })),
    ...found.people.map((one) => ({
      key: `person ${one.email}`,
      says: one.name,
      beside: `${one.role}, ${one.email}`,
      go: () => go({ to: '/setup' }),
    })),
  ]
}
