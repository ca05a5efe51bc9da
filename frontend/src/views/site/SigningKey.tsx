import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { answered, client, type Schemas } from '../../api/client'
import { useAnew } from '../../api/keys'
import { Button } from '../../parts/Button'
import { Input } from '../../parts/Input'
import { Told } from '../../parts/Told'

/** Until the site's signing key is known nothing can be put live on it; later, another one takes its place. */
export function SigningKey({
  site,
  replacing,
  onDone,
}: {
  site: Schemas['SitePage']
  replacing: boolean
  onDone: () => void
}) {
  const anew = useAnew()
  const [secret, setSecret] = useState('')
  const keep = useMutation({
    mutationFn: () =>
      answered(
        client.PUT('/api/sites/{site}/secret', { params: { path: { site: site.key } }, body: { secret } }),
      ),
    onSuccess: async () => {
      await anew.site(site.key)
      onDone()
    },
  })
  return (
    <form
      className="mb-3 flex flex-wrap items-end gap-3 border-l-4 border-wood bg-plate px-3 py-2"
      onSubmit={(event) => {
        event.preventDefault()
        keep.mutate()
      }}
    >
      <label className="flex-1 text-small text-ink-2">
        {replacing
          ? "New signing key, from the site's back office: for a day menus are signed with the old one too"
          : "Signing key, from the site's back office: without it nothing can be put live"}
        <Input
          value={secret}
          onChange={(event) => setSecret(event.target.value)}
          placeholder="whsec_…"
          className="mono block w-full max-w-[460px]"
        />
      </label>
      <Button small type="submit" disabled={!secret.trim() || keep.isPending}>
        Keep the key
      </Button>
      {replacing && (
        <Button small tone="quiet" onClick={onDone}>
          leave it as it is
        </Button>
      )}
      <Told error={keep.error} />
    </form>
  )
}
