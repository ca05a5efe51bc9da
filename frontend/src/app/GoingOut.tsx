import { useMutation, useQuery } from '@tanstack/react-query'
import { useEffect, useRef } from 'react'
import { answered, client, newKey, type Schemas } from '../api/client'
import { useAnew } from '../api/keys'
import { goingOutQuery } from '../api/queries'
import { Button } from '../parts/Button'
import { andJoined } from '../parts/joined'
import { Mark } from '../parts/Mark'
import { Sheet } from '../parts/Sheet'
import { Told } from '../parts/Told'
import { MenuGoes } from './MenuGoes'

interface Props {
  site: Schemas['SitePage']
  onPut: (target: string) => Promise<unknown>
  error: unknown
  pending: boolean
  onClose: () => void
}

/** What goes live, before it does: whose edits, where and for whom they show, and what stands against it. */
export function GoingOut({ site, onPut, error, pending, onClose }: Props) {
  const goes = useQuery({ ...goingOutQuery(site.key), staleTime: 0, gcTime: 0 })
  const told = goes.data
  const go = useRef<HTMLButtonElement>(null)
  const ready = Boolean(told)
  useEffect(() => {
    if (ready) go.current?.focus()
  }, [ready])
  const anew = useAnew()
  const leaveOut = useMutation({
    mutationFn: ({ change, menu }: { change: string; menu: string }) =>
      answered(
        client.POST('/api/sites/{site}/changes/{change}/left-out', {
          params: { path: { site: site.key, change }, header: { 'idempotency-key': newKey() } },
          body: { menu },
        }),
      ),
    onSuccess: () => Promise.all([goes.refetch(), anew.site(site.key)]),
  })
  // What goes alone is put live or not.
  const parts = (told?.menus.length ?? 0) + (told && told.site.length > 0 ? 1 : 0)
  const stops = told?.menus.flatMap((menu) => menu.findings.filter((one) => one.severity === 'stop')) ?? []
  const people = [
    ...new Set(told?.menus.flatMap((menu) => menu.edits.first.flatMap((edit) => (edit.by ? [edit.by] : [])))),
  ]
  return (
    <Sheet
      title={`Going live at ${site.name}`}
      className="w-[720px] grid-rows-[auto_minmax(0,1fr)_auto] gap-3 p-6"
      onOpen={(open) => !open && onClose()}
      beside={told && <span className="text-ink-2">{told.change.title}</span>}
    >
      <div className="min-h-0 overflow-auto">
        <Told error={goes.error ?? leaveOut.error} />
        {leaveOut.data && (
          <p role="status" className="pb-2 text-ink-2">
            Left for later, as the change “{leaveOut.data.title}”.
          </p>
        )}
        {goes.isPending && <p className="text-ink-2">Working out what goes live …</p>}
        {told?.menus.map((menu) => (
          <MenuGoes key={menu.menu} menu={menu} several={people.length > 1}>
            {parts > 1 && (
              <Button
                small
                tone="quiet"
                className="-mr-[9px]"
                disabled={leaveOut.isPending || goes.isFetching}
                onClick={() => leaveOut.mutate({ change: told.change.id, menu: menu.menu })}
                aria-label={`Leave ${menu.name} out`}
              >
                leave out
              </Button>
            )}
          </MenuGoes>
        ))}
        {told && told.site.length > 0 && (
          <section className="border-t border-hair py-2 first:border-0">
            <h3 className="font-bold">The site itself</h3>
            <ul>
              {told.site.map((says) => (
                <li key={says}>{says}</li>
              ))}
            </ul>
          </section>
        )}
      </div>
      <footer className="flex items-center justify-end gap-3">
        <span className="mr-auto min-w-0">
          <Told error={error} />
          {stops.length > 0 && (
            <Mark kind="stop">
              {stops.length === 1 ? '1 finding stops it' : `${stops.length} findings stop it`}: mend{' '}
              {stops.length === 1 ? 'it' : 'them'} first
            </Mark>
          )}
          {!error && stops.length === 0 && people.length > 1 && (
            <span className="text-ink-2">With edits of {andJoined(people)}</span>
          )}
        </span>
        {Boolean(error) && (
          <Button onClick={() => void goes.refetch()} disabled={goes.isFetching}>
            Look again
          </Button>
        )}
        <Button onClick={onClose}>Not yet</Button>
        <Button
          ref={go}
          tone="go"
          disabled={!told || goes.isFetching || stops.length > 0 || pending}
          onClick={() => told && void onPut(told.target).then(onClose, () => undefined)}
        >
          Put this live
        </Button>
      </footer>
    </Sheet>
  )
}
