import { useMutation, useQuery } from '@tanstack/react-query'
import { useRef, useState } from 'react'
import { answered, client, newKey } from '../../api/client'
import { keys } from '../../api/keys'
import { Button } from '../../parts/Button'
import { Input } from '../../parts/Input'
import { PageHead } from '../../parts/PageHead'
import { Told } from '../../parts/Told'
import { Proposal } from './Proposal'
import type { ReadSite } from './readSite'

/** Reading a client's site and keeping what was found. The reading goes on without being watched. */
export function TakeIn() {
  const [url, setUrl] = useState('')
  const [id, setId] = useState<string | null>(() =>
    new URLSearchParams(window.location.search).get('reading'),
  )
  const key = useRef<{ url: string; key: string } | null>(null)
  const begin = useMutation({
    mutationFn: (wanted: string) => {
      if (key.current?.url !== wanted) key.current = { url: wanted, key: newKey() }
      return answered(
        client.POST('/api/take-ins', {
          params: { header: { 'idempotency-key': key.current.key } },
          body: { url: wanted },
        }),
      )
    },
    onSuccess: (reading) => setId(reading.id),
  })
  const reading = useQuery({
    queryKey: keys.shelf('take-in', id),
    enabled: id !== null,
    queryFn: () =>
      answered(client.GET('/api/take-ins/{take_in_id}', { params: { path: { take_in_id: id ?? '' } } })),
    refetchInterval: (query) => (query.state.data?.state === 'reading' ? 350 : false),
  })
  const state = reading.data?.state
  return (
    <div className="max-w-[1180px] px-[18px] py-3.5">
      <PageHead names={['Take in a site']} />
      <p className="mb-3 text-ink-2">
        Its pages and navigations are read, never changed. Nothing is kept before you confirm it.
      </p>
      <form
        className="mb-4 flex items-end gap-3"
        onSubmit={(event) => {
          event.preventDefault()
          key.current = state === 'failed' ? null : key.current
          if (url.trim()) begin.mutate(url.trim())
        }}
      >
        <label className="w-[460px] text-small text-ink-2">
          Address of its home page
          <Input
            value={url}
            onChange={(event) => setUrl(event.target.value)}
            placeholder="https://brackwater.example/"
            inputMode="url"
            autoComplete="url"
            className="mono mt-1 block w-full py-0.5 text-head"
          />
        </label>
        <Button type="submit" tone="go" disabled={!url.trim() || begin.isPending || state === 'reading'}>
          Read it
        </Button>
      </form>
      <Told error={begin.error ?? reading.error} />
      {state === 'failed' && (
        <p role="alert" className="border-l-4 border-signal bg-signal-ground px-3 py-2">
          {reading.data?.says}
        </p>
      )}
      {state === 'reading' && reading.data && (
        <Progress doing={reading.data.doing} done={reading.data.done} of={reading.data.of} />
      )}
      {reading.data?.proposal && state !== 'failed' && (
        <Proposal
          key={reading.data.id}
          id={reading.data.id}
          proposal={reading.data.proposal as unknown as ReadSite}
        />
      )}
    </div>
  )
}

function Progress({ doing, done, of }: { doing: string; done: number; of: number | null }) {
  return (
    <div role="status" className="max-w-[460px]">
      <p>
        {doing}
        {done > 0 && ` · ${done}${of ? ` of ${of}` : ''}`}
      </p>
      <progress
        className="h-1.5 w-full accent-wood"
        max={of ?? undefined}
        value={of ? done : undefined}
        aria-label={doing}
      />
    </div>
  )
}
