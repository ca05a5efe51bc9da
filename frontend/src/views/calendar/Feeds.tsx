import { useMutation, useQuery } from '@tanstack/react-query'
import { answered, client } from '../../api/client'
import { useAnew } from '../../api/keys'
import { feedsQuery } from '../../api/queries'
import { Button } from '../../parts/Button'
import { Once } from '../../parts/Once'
import { Told } from '../../parts/Told'
import { when } from '../../parts/times'

/** Addresses by which a calendar program knows what is ahead, and a feed reader what went live. */
export function Feeds() {
  const anew = useAnew()
  const since = useQuery(feedsQuery).data?.made_at
  const make = useMutation({
    mutationFn: () => answered(client.POST('/api/feeds')),
    onSettled: () => anew.mine(),
  })
  const end = useMutation({
    mutationFn: () => answered(client.DELETE('/api/feeds')),
    onSuccess: () => make.reset(),
    onSettled: () => anew.mine(),
  })
  return (
    <section aria-label="Feeds" className="mt-4">
      <h2>In your own calendar</h2>
      <p className="text-small text-ink-2">
        {since ? `Your addresses are from ${when(since)}; ` : ''}a calendar program reads what is ahead
        (iCalendar), a feed reader what went live (Atom), as far as you may look. Whoever knows the addresses
        reads along.
      </p>
      <Told error={make.error ?? end.error} />
      <p className="mt-1 flex gap-3">
        <Button small disabled={make.isPending} onClick={() => make.mutate()}>
          {since ? 'Make new addresses' : 'Make the addresses'}
        </Button>
        {since && (
          <Button small tone="quiet" disabled={end.isPending} onClick={() => end.mutate()}>
            withdraw them
          </Button>
        )}
      </p>
      {make.data && (
        <>
          <Once says="For your calendar program." secret={make.data.calendar} />
          <Once says="For your feed reader." secret={make.data.live} />
        </>
      )}
    </section>
  )
}
