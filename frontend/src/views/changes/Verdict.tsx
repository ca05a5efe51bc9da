import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { answered, client, type Schemas } from '../../api/client'
import { useAnew } from '../../api/keys'
import { Button } from '../../parts/Button'
import { Mark } from '../../parts/Mark'
import { Told } from '../../parts/Told'
import { when } from '../../parts/times'

type Told_ = Schemas['OneChangeOut']

/** What people said of the change, whether that holds for what it is now, and what whoever looks may do with it. */
export function Verdict({ told }: { told: Told_ }) {
  const anew = useAnew()
  const [says, setSays] = useState('')
  const [declining, setDeclining] = useState(false)
  const params = { path: { change: told.change.id } }
  const after = () => anew.sites()
  const ask = useMutation({
    mutationFn: () => answered(client.POST('/api/changes/{change}/review', { params })),
    onSettled: after,
  })
  const approve = useMutation({
    mutationFn: () =>
      answered(
        client.POST('/api/changes/{change}/approve', { params, body: { content: told.content, says } }),
      ),
    onSuccess: () => setSays(''),
    onSettled: after,
  })
  const decline = useMutation({
    mutationFn: () =>
      answered(
        client.POST('/api/changes/{change}/decline', { params, body: { content: told.content, says } }),
      ),
    onSuccess: () => {
      setSays('')
      setDeclining(false)
    },
    onSettled: after,
  })
  const withdraw = useMutation({
    mutationFn: () => answered(client.POST('/api/changes/{change}/withdraw', { params })),
    onSettled: after,
  })
  const busy = ask.isPending || approve.isPending || decline.isPending || withdraw.isPending
  const can = (deed: Told_['can'][number]) => told.can.includes(deed)
  const judging = can('approve') || can('decline')
  return (
    <section aria-label="Review" className="mb-3 border-l-4 border-wood bg-plate px-3 py-2">
      {told.said.length > 0 && (
        <ul aria-label="What was said" className="mb-2">
          {told.said.map((one) => (
            <li key={one.at} className="text-small">
              <Mark kind={one.verdict === 'declined' ? 'stop' : one.holds ? 'ok' : 'open'}>
                {one.by} {one.verdict === 'approved' ? 'approves' : 'asks for changes'}
              </Mark>{' '}
              {one.says && <q>{one.says}</q>}{' '}
              <span className="text-ink-2">
                {when(one.at)}
                {one.verdict === 'approved' && !one.holds && ', of what it was then'}
                {one.stands_since &&
                  `; stands since ${when(one.stands_since)}, when something else went live beside it`}
              </span>
            </li>
          ))}
        </ul>
      )}
      {judging && (declining || can('approve')) && (
        <textarea
          aria-label={declining ? 'What is to be changed' : 'What you have to say of it'}
          placeholder={declining ? 'What is to be changed' : 'A word along with it, if you like'}
          value={says}
          rows={2}
          maxLength={4_000}
          onChange={(event) => setSays(event.target.value)}
          className="mb-2 w-full border border-hair bg-paper px-2 py-1"
        />
      )}
      <Told error={ask.error ?? approve.error ?? decline.error ?? withdraw.error} />
      <div className="flex flex-wrap items-center gap-2">
        {can('ask for review') && (
          <Button small tone="go" disabled={busy} onClick={() => ask.mutate()}>
            Ask for a review
          </Button>
        )}
        {can('approve') && !told.change.waits_for_me && told.change.state === 'in review' && (
          <span className="text-small text-ink-2">You approve of it as it is.</span>
        )}
        {told.change.waits_for_me && !declining && (
          <Button small tone="go" disabled={busy} onClick={() => approve.mutate()}>
            Approve this
          </Button>
        )}
        {can('decline') &&
          (declining ? (
            <>
              <Button small disabled={busy || !says.trim()} onClick={() => decline.mutate()}>
                Ask for these changes
              </Button>
              <Button small tone="quiet" onClick={() => setDeclining(false)}>
                not yet
              </Button>
            </>
          ) : (
            <Button small disabled={busy} onClick={() => setDeclining(true)}>
              Ask for changes …
            </Button>
          ))}
        {can('withdraw') && (
          <Button small tone="quiet" disabled={busy} onClick={() => withdraw.mutate()}>
            withdraw it
          </Button>
        )}
        {told.change.state === 'in review' && !can('approve') && (
          <span className="text-small text-ink-2">
            {told.change.wanted - told.change.approvals} more to approve; nobody approves what they wrote any
            of.
          </span>
        )}
      </div>
    </section>
  )
}
