import { useDraggable } from '@dnd-kit/core'
import { Link } from '@tanstack/react-router'
import type { Schemas } from '../../api/client'
import { useLens } from '../../app/useLens'
import { Mark } from '../../parts/Mark'
import { Miniature } from '../../parts/Miniature'
import { NewMenu } from './NewMenu'

/** Menus that hang nowhere. Dragged onto a place they hang there; by key, the place's own list hangs them. */
export function Tray({ site, editable }: { site: Schemas['SitePage']; editable: boolean }) {
  const loose = site.menus.filter((menu) => menu.hangs === 0)
  return (
    <section aria-label="Loose menus" className="mt-3 border-t border-hair pt-2">
      <h2 className="mb-2 text-[14px] text-ink-2">Loose menus: they hang nowhere</h2>
      <div className="flex flex-wrap gap-3">
        {loose.map((menu) => (
          <LooseMenu key={menu.key} site={site.key} menu={menu} editable={editable} />
        ))}
        {editable ? (
          <NewMenu site={site} />
        ) : (
          loose.length === 0 && <p className="text-ink-2">There is none.</p>
        )}
      </div>
    </section>
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
      className="relative min-w-[150px] touch-none rounded-sign border-[1.5px] border-ink bg-plate px-2.5 py-1.5 hover:border-dusk"
    >
      <span className="block text-[13px] text-ink-2">{menu.name}</span>
      <Miniature bars={menu.bars} shape="drawer" />
      <span className="flex justify-between gap-3 text-[12px] text-ink-2">
        <span>{menu.count}</span>
        {menu.pending > 0 && <Mark kind="open">{menu.pending} open</Mark>}
      </span>
    </Link>
  )
}
