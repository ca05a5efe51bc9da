import { useDraggable } from '@dnd-kit/core'
import { useMutation } from '@tanstack/react-query'
import { Link } from '@tanstack/react-router'
import { answered, client, newKey, type Schemas } from '../../api/client'
import { useAnew } from '../../api/keys'
import { useLens } from '../../lens/useLens'
import { Button } from '../../parts/Button'
import { Mark } from '../../parts/Mark'
import { Menu, MenuAct } from '../../parts/Menu'
import { Miniature } from '../../parts/Miniature'
import { Told } from '../../parts/Told'
import { NewMenu } from './NewMenu'

/** Menus that hang nowhere. Dragged onto a place they hang there; by key, the place's own list hangs them. */
export function Tray({ site, editable }: { site: Schemas['SitePage']; editable: boolean }) {
  const lens = useLens()
  const loose = site.menus.filter((menu) => menu.hangs === 0 && !menu.archived)
  const away = site.menus.filter((menu) => menu.archived)
  const keep = useHousekeeping(site.key)
  return (
    <section aria-label="Loose menus" className="mt-3 border-t border-hair pt-2">
      <h2 className="mb-2 text-body text-ink-2">Loose menus: they hang nowhere</h2>
      {editable && <NewMenu site={site} />}
      {loose.length === 0 && <p className="text-ink-2">There is none.</p>}
      <div className="flex flex-wrap gap-3">
        {loose.map((menu) => (
          <div key={menu.key} className="relative">
            <LooseMenu site={site.key} menu={menu} editable={editable} />
            {editable && <Keep menu={menu} keep={keep} />}
          </div>
        ))}
      </div>
      <Told error={keep.error} />
      {away.length > 0 && (
        <details className="mt-2 text-small">
          <summary className="text-ink-2">
            {away.length === 1 ? '1 menu' : `${away.length} menus`} put away
          </summary>
          <ul>
            {away.map((menu) => (
              <li key={menu.key} className="flex items-baseline gap-3 py-0.5">
                <Link
                  to="/sites/$site/menus/$menu"
                  params={{ site: site.key, menu: menu.key }}
                  search={lens}
                  className="hover:underline"
                >
                  {menu.name}
                </Link>
                {editable && (
                  <Button
                    small
                    tone="quiet"
                    disabled={keep.isPending}
                    onClick={() => keep.mutate({ menu: menu.key, act: 'take out' })}
                  >
                    take it out again
                  </Button>
                )}
              </li>
            ))}
          </ul>
        </details>
      )}
    </section>
  )
}

type Act = 'copy' | 'put away' | 'take out' | 'remove'

/** What can be done with a menu as a whole. */
function useHousekeeping(site: string) {
  const anew = useAnew()
  return useMutation({
    mutationFn: async ({ menu, act }: { menu: string; act: Act }) => {
      const params = { path: { site, menu } }
      if (act === 'copy')
        return void (await answered(
          client.POST('/api/sites/{site}/menus/{menu}/copies', {
            params: { ...params, header: { 'idempotency-key': newKey() } },
          }),
        ))
      if (act === 'remove')
        return void (await answered(client.DELETE('/api/sites/{site}/menus/{menu}', { params })))
      const body = { archived: act === 'put away' }
      await answered(client.PUT('/api/sites/{site}/menus/{menu}/archived', { params, body }))
    },
    onSettled: () => anew.site(site),
  })
}

function Keep({ menu, keep }: { menu: Schemas['MenuLine']; keep: ReturnType<typeof useHousekeeping> }) {
  const does = (act: Act, says: string) => (
    <MenuAct onAct={() => keep.mutate({ menu: menu.key, act })}>{says}</MenuAct>
  )
  return (
    <Menu
      button={
        <button
          type="button"
          aria-label={`What to do with ${menu.name}`}
          className="absolute top-1 right-1 min-h-6 min-w-6 px-1 text-ink-2 hover:text-ink"
        >
          …
        </button>
      }
    >
      {does('copy', 'Make a copy of it')}
      {does('put away', 'Put it away')}
      {does('remove', 'Remove it, if it was never live')}
    </Menu>
  )
}

function LooseMenu({ site, menu, editable }: { site: string; menu: Schemas['MenuLine']; editable: boolean }) {
  const lens = useLens()
  const drag = useDraggable({ id: menu.key, disabled: !editable })
  const moved = drag.transform
  return (
    <Link
      ref={drag.setNodeRef}
      {...drag.listeners}
      to="/sites/$site/menus/$menu"
      params={{ site, menu: menu.key }}
      search={lens}
      draggable={false}
      style={moved ? { transform: `translate(${moved.x}px, ${moved.y}px)`, zIndex: 30 } : undefined}
      className="relative block min-w-[150px] touch-none rounded-sign border-[1.5px] border-ink bg-plate px-2.5 py-1.5 hover:border-dusk"
    >
      <span className="block pr-5 text-small text-ink-2">{menu.name}</span>
      <Miniature bars={menu.bars} shape="drawer" />
      <span className="flex justify-between gap-3 text-note text-ink-2">
        <span>{menu.count}</span>
        {menu.pending > 0 && <Mark kind="open">{menu.pending} open</Mark>}
      </span>
    </Link>
  )
}
