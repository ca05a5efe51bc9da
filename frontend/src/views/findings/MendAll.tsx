import { useMutation } from '@tanstack/react-query'
import { Link } from '@tanstack/react-router'
import { useId, useRef, useState } from 'react'
import { answered, client, newKey, type Schemas } from '../../api/client'
import { useAnew } from '../../api/keys'
import { useLens } from '../../lens/useLens'
import { Button } from '../../parts/Button'
import { Input } from '../../parts/Input'
import { Told } from '../../parts/Told'
import type { Line } from './kinds'

type How = Schemas['CauseOut']['hows'][number]

/** One mend for everywhere it is found: a change with a part for each site, which goes live when somebody puts it live. */
export function MendAll({ line, more }: { line: Line; more: Schemas['CauseOut'] }) {
  const anew = useAnew()
  const id = useId()
  const [to, setTo] = useState(more.suggestion?.to ?? '')
  const key = useRef<string | null>(null)
  const mend = useMutation({
    mutationFn: (how: How) => {
      key.current ??= newKey()
      const body = { code: line.code, cause: line.cause, how, to: how === 'lead' ? to : null }
      return answered(
        client.POST('/api/findings/mend', { body, params: { header: { 'idempotency-key': key.current } } }),
      )
    },
    onSettled: () => {
      key.current = null
      void anew.sites()
    },
  })
  const sites = line.sites.length === 1 ? '1 site' : `${line.sites.length} sites`
  if (mend.data) return <Mended done={mend.data} line={line} />
  return (
    <section aria-label="Mend" className="mb-3">
      <h3 className="font-bold text-ink-2">{line.entries === 1 ? 'Mend it' : `Mend all ${line.entries}`}</h3>
      <form
        onSubmit={(event) => {
          event.preventDefault()
          mend.mutate('lead')
        }}
      >
        <label htmlFor={id}>Lead {line.entries === 1 ? 'it' : 'them'} to</label>{' '}
        <Input
          id={id}
          value={to}
          required
          placeholder="/fares or https://…"
          onChange={(event) => setTo(event.target.value)}
          className="w-full"
        />
        {more.suggestion && (
          <p className="text-small text-ink-2">
            {more.suggestion.to === to ? (
              more.suggestion.because
            ) : (
              <button type="button" className="underline" onClick={() => setTo(more.suggestion?.to ?? '')}>
                {more.suggestion.to}? {more.suggestion.because}
              </button>
            )}
          </p>
        )}
        <p className="mt-1.5 flex flex-wrap gap-2">
          <Button type="submit" tone="go" disabled={mend.isPending}>
            Into a change, {sites}
          </Button>
          {more.hows.includes('own host') && (
            <Button disabled={mend.isPending} onClick={() => mend.mutate('own host')}>
              To the site’s own host
            </Button>
          )}
          <Button disabled={mend.isPending} onClick={() => mend.mutate('remove')}>
            Take {line.entries === 1 ? 'it' : 'them'} away
          </Button>
        </p>
      </form>
      {mend.error && <Told error={mend.error} />}
    </section>
  )
}

function Mended({ done, line }: { done: Schemas['MendedOut']; line: Line }) {
  const lens = useLens()
  return (
    <section aria-label="Mend" role="status" className="mb-3">
      <h3 className="font-bold text-ink-2">In a change</h3>
      <p>
        “{done.title}” mends {done.entries}. It is found here until the change is live; put it live at{' '}
        {done.sites.map((key, at) => (
          <span key={key}>
            {at > 0 && ', '}
            <Link
              to="/sites/$site"
              params={{ site: key }}
              search={{ ...lens, in: done.change }}
              className="underline"
            >
              {line.sites.find((one) => one.key === key)?.name ?? key}
            </Link>
          </span>
        ))}
        .
      </p>
    </section>
  )
}
