import { useMutation } from '@tanstack/react-query'
import { answered, client, type Schemas } from '../../api/client'
import { useAnew } from '../../api/keys'
import { Button } from '../../parts/Button'
import { Told } from '../../parts/Told'
import { when } from '../../parts/times'
import { OutlineField } from './OutlineField'
import { useTyped } from './typed'

interface Props {
  shared: Schemas['SharedMenuOut']
  mayEdit: boolean
}

/** What stands in the shared menu, and its next version while that is typed. */
export function Written({ shared, mayEdit }: Props) {
  const anew = useAnew()
  const [kept, keep] = useTyped(shared.key)
  const newest = { name: shared.name, outline: shared.outline, version: shared.version }
  const typed = kept ?? newest
  const differs = kept !== null && (kept.name !== newest.name || kept.outline !== newest.outline)
  const stale = differs && kept.version !== newest.version
  const save = useMutation({
    mutationFn: () =>
      answered(
        client.PUT('/api/shared-menus/{shared}', {
          params: { path: { shared: shared.key } },
          body: typed,
        }),
      ),
    onSuccess: async () => {
      await anew.sites()
      keep(null)
    },
    onError: () => anew.sites(),
  })
  return (
    <form
      aria-label="What stands in it"
      className="grid min-h-0 content-start gap-2 overflow-auto pb-4"
      onSubmit={(event) => {
        event.preventDefault()
        save.mutate()
      }}
    >
      <p className="text-small text-ink-2">
        Version {shared.version}, {when(shared.versions[0]?.at ?? '')}
        {differs && <b className="text-ink"> · what you typed is no version yet</b>}
      </p>
      <OutlineField typed={typed} onType={keep} disabled={!mayEdit} />
      {stale && (
        <p role="status" className="border-l-4 border-signal bg-signal-ground px-3 py-2">
          Somebody made version {newest.version} meanwhile. What you typed is still here; it sets out from
          version {kept.version}.{' '}
          <Button small onClick={() => keep({ ...kept, version: newest.version })}>
            Keep mine on top of it
          </Button>{' '}
          <Button small tone="quiet" onClick={() => keep(null)}>
            Take theirs
          </Button>
        </p>
      )}
      <Told error={stale ? null : save.error} />
      {mayEdit && (
        <span className="flex gap-2">
          <Button type="submit" tone="go" disabled={!differs || stale || save.isPending}>
            Make version {newest.version + 1}
          </Button>
          {differs && (
            <Button tone="quiet" onClick={() => keep(null)}>
              Forget what I typed
            </Button>
          )}
        </span>
      )}
      <p className="text-small text-ink-2">
        A version changes nothing at any site until it is rolled forward there.
      </p>
    </form>
  )
}
