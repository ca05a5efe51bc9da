import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { answered, client, type Schemas } from '../../../api/client'
import { useAnew } from '../../../api/keys'
import { type Kind, type Wanted, wayOf } from '../../../app/ways'
import { Button } from '../../../parts/Button'
import { Input } from '../../../parts/Input'
import { Told } from '../../../parts/Told'
import { SiteKeys } from '../SiteKeys'
import { Tries } from './Tries'

interface Props {
  site: Schemas['SitePage']
  known: Schemas['ConnectionOut']
  kind: Kind
  mayKeys: boolean
}

/** One way set up in three steps: what it needs, tried out, used from now on. What is typed stays while it is tried again. */
export function SetUp({ site, known, kind, mayKeys }: Props) {
  const anew = useAnew()
  const [secret, setSecret] = useState('')
  const [remote, setRemote] = useState('')
  const [branch, setBranch] = useState(known.branch ?? 'main')
  const [folder, setFolder] = useState(known.folder ?? 'menus')
  const params = { path: { site: site.key } }
  const wanted = (): Wanted => {
    if (kind === 'repository')
      return { kind, remote: remote.trim() || null, branch: branch.trim(), folder: folder.trim() }
    if (kind === 'observe') return { kind }
    return { kind, secret: secret.trim() || null }
  }
  const tries = useMutation({
    mutationFn: () => answered(client.POST('/api/sites/{site}/connection/try', { params, body: wanted() })),
  })
  const use = useMutation({
    mutationFn: () => answered(client.PUT('/api/sites/{site}/connection', { params, body: wanted() })),
    onSuccess: () => anew.site(site.key),
  })
  const way = wayOf(kind)
  const fails = tries.data?.filter((one) => one.outcome === 'fails').length ?? 0
  const needsRemote = kind === 'repository' && !known.remote && !remote.trim()
  return (
    <section aria-label={way.name} className="min-w-0 border-l border-hair pl-6 max-lg:border-0 max-lg:pl-0">
      <form
        className="mb-4"
        onSubmit={(event) => {
          event.preventDefault()
          tries.mutate()
        }}
      >
        <h2 className="mb-1">What it needs</h2>
        {kind === 'repository' && (
          <div className="flex flex-wrap items-end gap-3 text-small text-ink-2">
            <label className="min-w-[280px] flex-1">
              {known.remote
                ? `Address of another Git repository than ${known.remote}`
                : 'Address of the Git repository'}
              <Input
                value={remote}
                onChange={(event) => setRemote(event.target.value)}
                placeholder="git@git.example:client/site.git"
                className="mono block w-full"
              />
            </label>
            <label>
              Branch
              <Input
                value={branch}
                required
                size={10}
                onChange={(event) => setBranch(event.target.value)}
                className="mono block"
              />
            </label>
            <label>
              Folder
              <Input
                value={folder}
                size={14}
                onChange={(event) => setFolder(event.target.value)}
                className="mono block"
              />
            </label>
          </div>
        )}
        {(kind === 'endpoint' || kind === 'fetch') && (
          <label className="block max-w-[460px] text-small text-ink-2">
            {known.signing
              ? 'Another signing key than the one that is known'
              : kind === 'fetch'
                ? "Signing key, from the site's back office: only to tell it when something changed"
                : "Signing key, from the site's back office"}
            <Input
              value={secret}
              onChange={(event) => setSecret(event.target.value)}
              placeholder="whsec_…"
              className="mono block w-full"
            />
          </label>
        )}
        {kind === 'fetch' && (
          <div className="mt-2">
            <SiteKeys site={{ ...site, connection: 'fetch' }} mayEdit={mayKeys} mayKeys={mayKeys} />
          </div>
        )}
        {kind === 'observe' && (
          <p className="text-small text-ink-2">
            Only that the places where menus hang stand in the HTML of its home page. What a script makes
            later nobody can verify for you: it is ticked off by hand.
          </p>
        )}
        <p className="mt-2 flex items-baseline gap-3">
          <Button type="submit" disabled={!mayKeys || tries.isPending || needsRemote}>
            {tries.isPending ? 'Trying …' : 'Try it out'}
          </Button>
          <span className="text-small text-ink-2">
            {mayKeys
              ? 'Nothing is another afterwards, neither here nor there.'
              : 'A lead of the site may do this.'}
          </span>
        </p>
        <Told error={tries.error} />
      </form>
      {tries.data && <Tries found={tries.data} />}
      {tries.data && (
        <div className="mt-4">
          <Button
            tone={fails === 0 ? 'go' : 'plain'}
            disabled={use.isPending || use.isSuccess}
            onClick={() => use.mutate()}
          >
            {kind === known.kind ? 'Use it like this' : `From now on: ${way.name.toLowerCase()}`}
          </Button>
          <p className="mt-1 text-small text-ink-2">
            What is live stays as it is. Where the site shows something else than that, Sync tells it.
            {fails > 0 && ' It can be used all the same where the site allows it, but not all of it is well.'}
          </p>
          <Told error={use.error} />
          {use.isSuccess && <p role="status">It is used from now on, and the site is being read.</p>}
        </div>
      )}
    </section>
  )
}
