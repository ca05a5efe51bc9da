import { useMutation } from '@tanstack/react-query'
import { Link } from '@tanstack/react-router'
import { useState } from 'react'
import { answered, client, type Schemas } from '../../api/client'
import { useAnew } from '../../api/keys'
import { useLens } from '../../lens/useLens'
import { Button } from '../../parts/Button'
import { andJoined } from '../../parts/joined'
import { Mark } from '../../parts/Mark'
import { Told } from '../../parts/Told'
import { when } from '../../parts/times'

type New = Schemas['NewPageOut']
type Suggested = NonNullable<New['suggested']>

interface Props {
  site: string
  pages: New[]
  editable: boolean
}

/** Pages that came and are in no menu yet: put where they probably belong, or left out on purpose. */
export function NewPages({ site, pages, editable }: Props) {
  const anew = useAnew()
  const lens = useLens()
  const [placed, setPlaced] = useState<{ title: string; at: Suggested; change: string } | null>(null)
  const place = useMutation({
    mutationFn: ({ page, at }: { page: New; at: Suggested }) =>
      answered(
        client.POST('/api/sites/{site}/inventory/place', {
          params: { path: { site } },
          body: { ref: page.ref, menu: at.menu, parent: at.parent, at: at.at },
        }),
      ),
    onSuccess: (done, { page, at }) => setPlaced({ title: titleOf(page), at, change: done.change }),
    onSettled: () => anew.site(site),
  })
  const dismiss = useMutation({
    mutationFn: (refs: string[]) =>
      answered(
        client.POST('/api/sites/{site}/inventory/dismiss', { params: { path: { site } }, body: { refs } }),
      ),
    onSettled: () => anew.site(site),
  })
  const busy = place.isPending || dismiss.isPending
  if (pages.length === 0 && !placed) return null
  return (
    <section aria-label="New pages" className="mb-4 border-y border-hair py-2">
      <h2 className="mb-1 flex flex-wrap items-baseline gap-x-3 font-bold">
        {pages.length === 0
          ? 'No new page waits'
          : pages.length === 1
            ? '1 new page'
            : `${pages.length} new pages`}
        <span className="text-small font-normal text-ink-2">in no menu yet</span>
        {editable && pages.length > 1 && (
          <Button
            small
            tone="quiet"
            className="ml-auto"
            disabled={busy}
            onClick={() => dismiss.mutate(pages.map((page) => page.ref))}
          >
            leave all of them out
          </Button>
        )}
      </h2>
      {placed && (
        <p role="status" className="pb-1 text-small">
          <Mark kind="ok">{placed.title}</Mark> stands as {placed.at.number} in{' '}
          <Link
            to="/sites/$site/menus/$menu"
            params={{ site, menu: placed.at.menu }}
            search={{ ...lens, in: placed.change }}
            className="underline"
          >
            {placed.at.menu_name}
          </Link>
          , in your change; live once that is.
        </p>
      )}
      <Told error={place.error ?? dismiss.error} />
      <ul>
        {pages.map((page) => (
          <li
            key={page.ref}
            className="grid grid-cols-[minmax(0,1fr)_minmax(0,1.3fr)_auto] items-baseline gap-x-4 border-t border-hair py-1.5 first:border-0 max-md:grid-cols-1"
          >
            <span className="min-w-0">
              <b className="break-words">{titleOf(page)}</b>{' '}
              <span className="text-note text-ink-2">since {when(page.since)}</span>
              <span className="mono block truncate text-small text-ink-2">{page.path}</span>
            </span>
            <span className="min-w-0 text-small">{where(page)}</span>
            {editable && (
              <span className="flex justify-end gap-2 max-md:justify-start max-md:pt-1">
                {page.suggested && (
                  <Button
                    small
                    disabled={busy}
                    aria-label={`Put ${titleOf(page)} there`}
                    onClick={() => page.suggested && place.mutate({ page, at: page.suggested })}
                  >
                    Put it there
                  </Button>
                )}
                <Button
                  small
                  tone="quiet"
                  disabled={busy}
                  aria-label={`Leave ${titleOf(page)} out`}
                  onClick={() => dismiss.mutate([page.ref])}
                >
                  leave it out
                </Button>
              </span>
            )}
          </li>
        ))}
      </ul>
    </section>
  )
}

const titleOf = (page: New): string => Object.values(page.title)[0] ?? page.path

function where({ suggested, led_from, noindex }: New) {
  if (led_from.length > 0) return <span className="text-ink-2">{andJoined(led_from)} leads there by now</span>
  if (!suggested)
    return (
      <span className="text-ink-2">
        Nothing speaks for a place: neither its address nor pages beside it.
        {noindex && ' It asks search engines to leave it out.'}
      </span>
    )
  return (
    <>
      as <b>{suggested.number}</b> in {suggested.menu_name}
      {suggested.below && <>, below {suggested.below}</>}
      <span className="block text-ink-2">{suggested.because}</span>
    </>
  )
}
