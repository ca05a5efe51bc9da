import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { answered, client, type Schemas } from '../../api/client'
import { useAnew } from '../../api/keys'
import { Button } from '../../parts/Button'
import { Once } from '../../parts/Once'
import { Told } from '../../parts/Told'
import { when } from '../../parts/times'
import { SigningKey } from './SigningKey'

type Site = Schemas['SitePage']
type Key = Schemas['KeyLine']

/** The keys that the site and the shelf know each other by: which there are, since when, and how to replace one. */
export function SiteKeys({ site, mayEdit, mayKeys }: { site: Site; mayEdit: boolean; mayKeys: boolean }) {
  const [replacing, setReplacing] = useState(false)
  const newest = (kind: Key['kind']) => site.keys.find((key) => key.kind === kind && key.until === null)
  if (site.connection === 'endpoint') {
    const signing = newest('signing')
    if (!signing || replacing)
      return mayEdit ? (
        <SigningKey site={site} replacing={replacing} onDone={() => setReplacing(false)} />
      ) : null
    return (
      <p className="mb-2 flex items-baseline gap-2 text-small text-ink-2">
        Menus are signed with the key of {when(signing.made_at)}
        <StillCounts keys={site.keys} kind="signing" />
        {mayKeys && (
          <Button small tone="quiet" onClick={() => setReplacing(true)}>
            replace the signing key
          </Button>
        )}
      </p>
    )
  }
  if (site.connection !== 'fetch') return null
  return (
    <div className="mb-2 text-small text-ink-2">
      The site asks for its menus at <code>{`${window.location.origin}/live/${site.key}/…`}</code>
      <KeyLine
        site={site}
        kind="delivery"
        says="with its delivery key"
        newest={newest('delivery')}
        may={mayKeys}
      />
      <KeyLine
        site={site}
        kind="facts"
        says="and signs visitors' facts with its facts key"
        newest={newest('facts')}
        may={mayKeys}
      />
    </div>
  )
}

function StillCounts({ keys, kind }: { keys: Key[]; kind: Key['kind'] }) {
  const older = keys.find((key) => key.kind === kind && key.until !== null)
  return older?.until ? <span>· the one before counts until {when(older.until)}</span> : null
}

function KeyLine({
  site,
  kind,
  says,
  newest,
  may,
}: {
  site: Site
  kind: 'delivery' | 'facts'
  says: string
  newest: Key | undefined
  may: boolean
}) {
  const anew = useAnew()
  const make = useMutation({
    mutationFn: () =>
      answered(
        client.POST('/api/sites/{site}/keys/{kind}', {
          params: { path: { site: site.key, kind } },
          body: { old_counts_hours: 24 },
        }),
      ),
    onSuccess: () => anew.site(site.key),
  })
  return (
    <div>
      <p className="flex flex-wrap items-baseline gap-2">
        {says}
        {newest ? `, made ${when(newest.made_at)}` : ': there is none yet'}
        <StillCounts keys={site.keys} kind={kind} />
        {may && (
          <Button small tone="quiet" disabled={make.isPending} onClick={() => make.mutate()}>
            {newest ? `make a new ${kind} key` : `make its ${kind} key`}
          </Button>
        )}
      </p>
      <Told error={make.error} />
      {make.data && (
        <Once
          says={`The new ${kind} key of ${site.name}.${newest ? ' The one before counts for a day.' : ''}`}
          secret={make.data.key}
        />
      )}
    </div>
  )
}
