import { useMutation } from '@tanstack/react-query'
import { answered, client, type Schemas } from '../../api/client'
import { useAnew } from '../../api/keys'
import { Button } from '../../parts/Button'
import { andJoined } from '../../parts/joined'
import { Told } from '../../parts/Told'

/** What the site says that it can do, with the way to ask it again. */
export function Abilities({ site, mayAsk }: { site: Schemas['SitePage']; mayAsk: boolean }) {
  const anew = useAnew()
  const ask = useMutation({
    mutationFn: () =>
      answered(client.POST('/api/sites/{site}/abilities', { params: { path: { site: site.key } } })),
    onSuccess: () => anew.site(site.key),
  })
  if (site.connection !== 'endpoint' && site.connection !== 'fetch') return null
  const { facts, shows } = site.can
  return (
    <div className="mb-2 text-small text-ink-2">
      <p className="flex flex-wrap items-baseline gap-x-2">
        {said(facts ?? null, shows ?? null)}
        {mayAsk && (
          <Button small tone="quiet" disabled={ask.isPending} onClick={() => ask.mutate()}>
            ask it again
          </Button>
        )}
      </p>
      <Told error={ask.error} />
    </div>
  )
}

function said(facts: readonly string[] | null, shows: readonly string[] | null): string {
  if (!facts && !shows) return 'The site does not say what it can do.'
  const shown =
    shows && `shows ${shows.length ? andJoined(shows.map((one) => one.replace('-', ' '))) : 'labels alone'}`
  const known = facts && `says ${facts.length ? andJoined(facts) : 'nothing'} of its visitors`
  return `The site ${[shown, known].filter(Boolean).join(', and ')}.`
}
