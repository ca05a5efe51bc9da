import { useMutation, useQuery } from '@tanstack/react-query'
import { useEffect } from 'react'
import { answered, client } from '../../api/client'
import { useAnew } from '../../api/keys'
import { sinceQuery } from '../../api/queries'
import { Button } from '../../parts/Button'
import { Told } from '../../parts/Told'
import { when } from '../../parts/times'

/** What became another since one looked at the change; the first look is noted by itself. */
export function SinceLooked({ change, content }: { change: string; content: string }) {
  const anew = useAnew()
  const since = useQuery(sinceQuery(change, content))
  const look = useMutation({
    mutationFn: () =>
      answered(
        client.PUT('/api/changes/{change}/looked', { params: { path: { change } }, body: { content } }),
      ),
    // Where it is another by now, that is what is shown, and seen with the next press.
    onSettled: () => anew.change(change),
  })
  const never = since.data?.at === null
  const { mutate } = look
  useEffect(() => {
    if (never) mutate()
  }, [never, mutate])
  const at = since.data?.at
  if (!at || since.data?.sites.length === 0) return null
  return (
    <section
      aria-label="Since you looked"
      className="mb-3 border-l-4 border-ink bg-plate px-3 py-2 text-small"
    >
      <h3 className="font-bold">Since you looked at it, {when(at)}</h3>
      {since.data?.sites.map((site) => (
        <ul key={site.site} aria-label={site.site_name}>
          {site.does.map((says) => (
            <li key={says}>
              {since.data.sites.length > 1 && <span className="text-ink-2">{site.site_name}: </span>}
              {says}
            </li>
          ))}
          {site.does.length === 0 && <li className="text-ink-2">What nobody is shown is another.</li>}
        </ul>
      ))}
      <Told error={look.error} />
      <Button small className="mt-1" disabled={look.isPending} onClick={() => look.mutate()}>
        I have seen it
      </Button>
    </section>
  )
}
