import { useMutation } from '@tanstack/react-query'
import { answered, client, type Schemas } from '../../api/client'
import { useAnew } from '../../api/keys'
import { Button } from '../../parts/Button'
import { Told } from '../../parts/Told'
import { when } from '../../parts/times'

interface Props {
  site: string
  pages: Schemas['DismissedPageOut'][]
  editable: boolean
}

/** New pages that somebody left out of the menus, and that can be brought back. */
export function LeftOut({ site, pages, editable }: Props) {
  const anew = useAnew()
  const back = useMutation({
    mutationFn: (ref: string) =>
      answered(
        client.POST('/api/sites/{site}/inventory/bring-back', {
          params: { path: { site } },
          body: { refs: [ref] },
        }),
      ),
    onSettled: () => anew.site(site),
  })
  if (pages.length === 0) return null
  return (
    <details className="mb-4 text-small">
      <summary className="cursor-pointer text-ink-2">
        {pages.length === 1 ? '1 page is' : `${pages.length} pages are`} left out of the menus on purpose
      </summary>
      <Told error={back.error} />
      <ul>
        {pages.map((page) => (
          <li key={page.ref} className="flex flex-wrap items-baseline gap-x-3 border-t border-hair py-1">
            <b>{Object.values(page.title)[0] ?? page.path}</b>
            <span className="mono text-ink-2">{page.path}</span>
            <span className="text-ink-2">
              {page.by} {when(page.at)}
            </span>
            {editable && (
              <Button
                small
                tone="quiet"
                className="ml-auto"
                disabled={back.isPending}
                aria-label={`Bring ${Object.values(page.title)[0] ?? page.path} back`}
                onClick={() => back.mutate(page.ref)}
              >
                bring it back
              </Button>
            )}
          </li>
        ))}
      </ul>
    </details>
  )
}
