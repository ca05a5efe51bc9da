import { useMutation } from '@tanstack/react-query'
import { useNavigate } from '@tanstack/react-router'
import { useRef, useState } from 'react'
import { answered, client, newKey, type Schemas } from '../../api/client'
import { useAnew } from '../../api/keys'
import { IncomingSource, SOURCE_SHEET } from '../../incoming/IncomingSource'
import { useLens } from '../../lens/useLens'
import { documentOf } from '../../outline/clipboard'
import { flatten, type Item } from '../../outline/tree'
import { Button } from '../../parts/Button'
import { Input } from '../../parts/Input'
import { Mark } from '../../parts/Mark'
import { Sheet } from '../../parts/Sheet'
import { Told } from '../../parts/Told'

const NOTHING: ReadonlySet<string> = new Set()

/** A menu from nothing, or from what comes in: a paste or file, another menu, the live page. */
export function NewMenu({ site }: { site: Schemas['SitePage'] }) {
  const [name, setName] = useState('')
  const [open, setOpen] = useState(false)
  const [found, setFound] = useState<readonly Item[] | null>(null)
  const create = useCreateMenu(site.key)
  return (
    <form
      className="mb-2 flex flex-wrap items-baseline gap-x-3 gap-y-1"
      onSubmit={(event) => {
        event.preventDefault()
        if (name.trim()) create.mutate({ name: name.trim(), from: null })
      }}
    >
      <label className="flex items-baseline gap-2 text-ink-2">
        begin a menu called
        <Input
          value={name}
          onChange={(event) => setName(event.target.value)}
          placeholder="its name"
          className="w-[190px] text-body"
        />
      </label>
      <span className="flex gap-2">
        <Button small type="submit" disabled={!name.trim()}>
          Begin
        </Button>
        <Button small onClick={() => setOpen(true)}>
          Begin from …
        </Button>
      </span>
      {site.menus.some((menu) => menu.name.toLowerCase() === name.trim().toLowerCase()) && (
        <p role="status" className="text-small">
          <Mark kind="stop">another menu is called so already</Mark>
        </p>
      )}
      <Told error={open ? null : create.error} />
      {open && (
        <Sheet title={`A new menu of ${site.name}`} onOpen={setOpen} className={SOURCE_SHEET}>
          <IncomingSource
            site={site.key}
            languages={site.languages}
            onFound={(next, items) => {
              setFound(next && items)
              if (next && !name.trim()) setName(next.title)
            }}
          />
          <footer className="flex items-baseline gap-4">
            <label className="flex items-baseline gap-2 text-ink-2">
              named
              <Input
                aria-label="Name of the new menu"
                value={name}
                onChange={(event) => setName(event.target.value)}
                className="w-[220px]"
              />
            </label>
            <Told error={create.error} />
            <Button className="ml-auto" onClick={() => setOpen(false)}>
              Cancel
            </Button>
            <Button
              tone="go"
              disabled={!found || !name.trim() || create.isPending}
              onClick={() => create.mutate({ name: name.trim(), from: found })}
            >
              Begin with {found ? flatten(found, NOTHING).length : 0} lines
            </Button>
          </footer>
        </Sheet>
      )}
    </form>
  )
}

function useCreateMenu(site: string) {
  const lens = useLens()
  const anew = useAnew()
  const navigate = useNavigate()
  // The key belongs to what is asked for: pressing twice makes the menu once.
  const key = useRef<{ asked: string; key: string } | null>(null)
  return useMutation({
    mutationFn: (wanted: { name: string; from: readonly Item[] | null }) => {
      const asked = JSON.stringify(wanted)
      if (key.current?.asked !== asked) key.current = { asked, key: newKey() }
      return answered(
        client.POST('/api/sites/{site}/menus', {
          params: { path: { site }, header: { 'idempotency-key': key.current.key } },
          body: { name: wanted.name, ...(wanted.from && { document: documentOf([...wanted.from]) }) },
        }),
      )
    },
    onSuccess: async (made) => {
      key.current = null
      await anew.site(site)
      await navigate({ to: '/sites/$site/menus/$menu', params: { site, menu: made.key }, search: lens })
    },
  })
}
