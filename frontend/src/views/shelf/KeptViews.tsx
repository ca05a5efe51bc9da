import { useMutation, useQuery } from '@tanstack/react-query'
import { useNavigate } from '@tanstack/react-router'
import { useState } from 'react'
import { answered, client } from '../../api/client'
import { useAnew } from '../../api/keys'
import { shelfViewsQuery } from '../../api/queries'
import { readShelf, type ShelfAt } from '../../app/shelf'
import { Button } from '../../parts/Button'
import { Input } from '../../parts/Input'
import { Told } from '../../parts/Told'

const NOTHING: ShelfAt = { show: undefined, order: undefined, dense: undefined, find: undefined }

/** One's own ways of looking at the shelf, each a press away; the one that is open is kept under a name, or let go of. */
export function KeptViews({ at }: { at: ShelfAt }) {
  const navigate = useNavigate()
  const anew = useAnew()
  const kept = useQuery(shelfViewsQuery)
  const [name, setName] = useState<string | null>(null)
  const keep = useMutation({
    mutationFn: (called: string) =>
      answered(client.PUT('/api/shelf/views/{name}', { params: { path: { name: called } }, body: at })),
    onSuccess: async () => {
      await anew.mine()
      setName(null)
    },
  })
  const forget = useMutation({
    mutationFn: (called: string) =>
      answered(client.DELETE('/api/shelf/views/{name}', { params: { path: { name: called } } })),
    onSettled: () => anew.mine(),
  })
  const open = kept.data?.find((one) => same(readShelf({ ...one.at }), at))
  const something = Object.values(at).some((one) => one !== undefined)
  if (!kept.data || (kept.data.length === 0 && !something)) return null
  return (
    <div className="mb-1 flex flex-wrap items-baseline gap-x-2 gap-y-1 text-small text-ink-2 print:hidden">
      {kept.data.length > 0 && <span>kept:</span>}
      {kept.data.map((one) => (
        <button
          key={one.name}
          type="button"
          aria-pressed={one === open}
          onClick={() =>
            void navigate({
              to: '.',
              search: (before: object) => ({
                ...before,
                ...NOTHING,
                ...(one === open ? {} : readShelf({ ...one.at })),
              }),
            })
          }
          className="min-h-6 rounded-sign border border-edge bg-plate px-2 text-ink aria-pressed:border-ink aria-pressed:bg-ink aria-pressed:text-paper"
        >
          {one.name}
        </button>
      ))}
      {open && (
        <Button small tone="quiet" disabled={forget.isPending} onClick={() => forget.mutate(open.name)}>
          let go of {open.name}
        </Button>
      )}
      {!open && something && name === null && (
        <Button small tone="quiet" onClick={() => setName('')}>
          keep this view …
        </Button>
      )}
      {!open && something && name !== null && (
        <form
          className="flex items-baseline gap-2"
          onSubmit={(event) => {
            event.preventDefault()
            if (name.trim()) keep.mutate(name.trim())
          }}
        >
          <Input
            aria-label="What this view is called"
            placeholder="its name"
            autoFocus
            value={name}
            onChange={(event) => setName(event.target.value)}
            className="w-[160px]"
          />
          <Button small type="submit" disabled={!name.trim() || keep.isPending}>
            Keep it
          </Button>
          <Button small tone="quiet" onClick={() => setName(null)}>
            leave it
          </Button>
        </form>
      )}
      <Told error={keep.error ?? forget.error} />
    </div>
  )
}

const same = (one: ShelfAt, other: ShelfAt): boolean =>
  one.show === other.show &&
  one.order === other.order &&
  (one.dense ?? false) === (other.dense ?? false) &&
  (one.find ?? '') === (other.find ?? '')
