import { useMutation, useQuery } from '@tanstack/react-query'
import { Link } from '@tanstack/react-router'
import { answered, client, type Schemas } from '../../api/client'
import { useAnew } from '../../api/keys'
import { draftQuery } from '../../api/queries'
import { useLens } from '../../lens/useLens'
import { Differences } from '../../parts/Differences'

/** The site's draft against what is live: its places, looks and template, and which menus it edits. */
export function SiteDraft({ site, editable }: { site: Schemas['SitePage']; editable: boolean }) {
  const lens = useLens()
  const anew = useAnew()
  const draft = useQuery(draftQuery(site.key))
  const back = useMutation({
    mutationFn: (edits: readonly Schemas['SiteEditOut'][]) =>
      answered(
        client.POST('/api/sites/{site}/draft/take-back', {
          params: { path: { site: site.key } },
          body: { keys: edits.map((edit) => edit.key) },
        }),
      ),
    onSettled: () => anew.site(site.key),
  })
  const menus = draft.data?.menus ?? []
  const edits = draft.data?.site ?? []
  return (
    <Differences
      trigger={site.change?.title ?? 'Draft'}
      label="What the draft changes"
      edits={edits}
      count={edits.length + menus.length}
      editable={editable}
      pending={back.isPending}
      error={draft.error ?? back.error}
      onBack={(some) => back.mutate(some)}
    >
      {menus.map((menu) => (
        <li key={menu.menu} className="border-t border-hair py-1 first:border-0">
          <Link
            to="/sites/$site/menus/$menu"
            params={{ site: site.key, menu: menu.menu }}
            search={lens}
            className="underline"
          >
            {menu.name}
          </Link>
          : {menu.count} {menu.count === 1 ? 'edit' : 'edits'}, listed on its bench
        </li>
      ))}
    </Differences>
  )
}
