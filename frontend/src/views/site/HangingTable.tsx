import {
  DndContext,
  type DragCancelEvent,
  type DragEndEvent,
  type DragOverEvent,
  type DragStartEvent,
  MeasuringStrategy,
  PointerSensor,
  pointerWithin,
  useDroppable,
  useSensor,
  useSensors,
} from '@dnd-kit/core'
import { useMutation, useQuery } from '@tanstack/react-query'
import { Link } from '@tanstack/react-router'
import { type ReactNode, useState } from 'react'
import { answered, client, newKey, type Schemas } from '../../api/client'
import { useAnew } from '../../api/keys'
import { hangingThenQuery } from '../../api/queries'
import { DEVICES, type Device } from '../../lens/lens'
import { useLens } from '../../lens/useLens'
import { Mark } from '../../parts/Mark'
import { Menu, MenuAct, MenuLine } from '../../parts/Menu'
import { reading } from '../../parts/readings'
import { Told } from '../../parts/Told'

type Site = Schemas['SitePage']
type Cell = Schemas['Cell']

export type Act =
  | { do: 'hang'; menu: string | null }
  | { do: 'take down' }
  | { do: 'own' }
  | { do: 'read again'; what: 'take over' | 'put back' }

const HATCHED = 'bg-[repeating-linear-gradient(135deg,transparent_0_7px,var(--hair)_7px_8px)]'

/** Hanging, taking down, giving a device its own; told where the place does not take it. */
function useActs(site: string) {
  const anew = useAnew()
  return useMutation({
    mutationFn: async ({ cell, act }: { cell: Pick<Cell, 'location' | 'device'>; act: Act }) => {
      const params = { path: { site, location: cell.location, device: cell.device } }
      if (act.do === 'hang')
        return answered(
          client.PUT('/api/sites/{site}/places/{location}/{device}', { params, body: { menu: act.menu } }),
        )
      if (act.do === 'take down')
        return answered(client.DELETE('/api/sites/{site}/places/{location}/{device}', { params }))
      if (act.do === 'read again')
        return answered(
          client.POST('/api/sites/{site}/places/{location}/{device}/read-again', {
            params: { ...params, header: { 'idempotency-key': newKey() } },
            body: { what: act.what },
          }),
        )
      return answered(client.POST('/api/sites/{site}/places/{location}/{device}/own', { params }))
    },
    onSettled: () => anew.site(site),
  })
}

/** A drag in sentences, with the names that people read. */
function spokenFor(site: Site) {
  const menu = (id: unknown) => site.menus.find((one) => one.key === id)?.name ?? 'the menu'
  const place = (data: unknown) => {
    const cell = data as Cell | undefined
    return cell ? `${title(site, cell.location)} on the ${cell.device}` : null
  }
  return {
    screenReaderInstructions: { draggable: 'Each cell of the table has a button that hangs a menu there.' },
    announcements: {
      onDragStart: ({ active }: DragStartEvent) => `Lifted ${menu(active.id)}.`,
      onDragOver: ({ active, over }: DragOverEvent) => {
        const where = place(over?.data.current)
        return where ? `${menu(active.id)} over ${where}.` : `${menu(active.id)} over no place.`
      },
      onDragEnd: ({ active, over }: DragEndEvent) => {
        const where = place(over?.data.current)
        const refused = over && whyNot(site, over.data.current as Cell, String(active.id))
        if (refused) return `${menu(active.id)} does not go into ${where}: ${refused}.`
        return where ? `${menu(active.id)} dropped on ${where}.` : `${menu(active.id)} put back.`
      },
      onDragCancel: ({ active }: DragCancelEvent) => `${menu(active.id)} put back.`,
    },
  }
}

const keepHere = (event: Event) => event.preventDefault()

interface Props {
  site: Site
  editable: boolean
  /** What else can be done with a place. */
  more: (location: Schemas['LocationOut']) => ReactNode
  /** The tray, from which menus are dragged into cells. */
  tray: ReactNode
}

/** Locations down, devices across: own menus solid, inherited ones hatched with where they come from. */
export function HangingTable({ site, editable, more, tray }: Props) {
  const lens = useLens()
  const acts = useActs(site.key)
  const then = useQuery(hangingThenQuery(site.key, lens))
  const [dragged, setDragged] = useState<string | null>(null)
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 6 } }))
  const dropped = ({ active, over }: DragEndEvent) => {
    setDragged(null)
    window.setTimeout(() => window.removeEventListener('click', keepHere, { capture: true }))
    const cell = over?.data.current as Cell | undefined
    if (cell) acts.mutate({ cell, act: { do: 'hang', menu: String(active.id) } })
  }
  return (
    <DndContext
      sensors={sensors}
      // Where the pointer is, not where most of the card lies over.
      collisionDetection={pointerWithin}
      measuring={{ droppable: { strategy: MeasuringStrategy.Always } }}
      onDragStart={({ active }) => {
        setDragged(String(active.id))
        // The end of a drag is a click on the menu's link as well; it must not lead away.
        window.addEventListener('click', keepHere, { capture: true, once: true })
      }}
      onDragCancel={() => setDragged(null)}
      onDragEnd={dropped}
      accessibility={spokenFor(site)}
    >
      <Told error={acts.error} />
      {then.data && (
        <p role="status" className="text-small text-dusk">
          {then.data.says
            ? `At ${reading(lens.at ?? '')}: ${then.data.says}. What hangs otherwise then stands beneath.`
            : `Until ${reading(lens.at ?? '')} nothing that is scheduled changes what hangs here.`}
        </p>
      )}
      <table className="stacks w-full table-fixed border-separate border-spacing-x-1.5 border-spacing-y-1.5 text-left">
        <caption className="sr-only">Which menu hangs in which place on which device</caption>
        <thead>
          <tr>
            <td className="w-[128px]" />
            {DEVICES.map((device) => (
              <th
                key={device}
                scope="col"
                className={`text-note text-ink-2 ${lens.device === device ? 'underline decoration-wood decoration-2 underline-offset-4' : ''}`}
              >
                {device} <span className="font-normal">{widths(site, device)}</span>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {site.locations.map((location) => (
            <tr key={location.key}>
              <th scope="row" className="align-top text-small leading-tight">
                {location.title}
                <span className="block text-note font-normal text-ink-2">
                  {location.shape}, {location.depth === 1 ? '1 level' : `${location.depth} levels`}
                  {location.fixed && ', stays'}
                  {!location.readable && ', by script'}
                </span>
                {more(location)}
              </th>
              {DEVICES.map((device) => {
                const cell = site.cells.find((one) => one.location === location.key && one.device === device)
                return (
                  <td key={device} data-says={device} className="align-top">
                    {cell && (
                      <Hung
                        site={site}
                        cell={cell}
                        editable={editable}
                        dragged={dragged}
                        onAct={(act) => acts.mutate({ cell, act })}
                      />
                    )}
                    {cell && then.data && <Then site={site} cell={cell} then={then.data} />}
                  </td>
                )
              })}
            </tr>
          ))}
        </tbody>
      </table>
      {tray}
    </DndContext>
  )
}

/** What hangs in the cell at the lens's moment, where that is something else than now. */
function Then({ site, cell, then }: { site: Site; cell: Cell; then: Schemas['ThenOut'] }) {
  const comes = then.cells.find((one) => one.location === cell.location && one.device === cell.device)
  const named = (key: string | null) =>
    then.names[key ?? ''] ?? site.menus.find((one) => one.key === key)?.name
  if (!comes)
    return <span className="block px-2 text-note text-dusk">then: not on the template any more</span>
  if (comes.menu === cell.menu && comes.placement === cell.placement) return null
  return (
    <span className="block px-2 text-note text-dusk">
      then: {comes.menu ? named(comes.menu) : comes.placement === 'none' ? 'none' : 'nothing hangs'}
    </span>
  )
}

function widths(site: Site, device: Device): string {
  const range = site.device_widths[device]
  if (!range) return ''
  const { low, high } = range
  return high === null ? `${low}+` : low === 0 ? `to ${high}` : `${low}–${high}`
}

const BOX =
  'flex min-h-[32px] w-full items-center justify-between gap-1 rounded-sign border-[1.5px] px-2 py-0.5 text-small'

interface HungProps {
  site: Site
  cell: Cell
  editable: boolean
  dragged: string | null
  onAct: (act: Act) => void
}

function Hung({ site, cell, editable, dragged, onAct }: HungProps) {
  const lens = useLens()
  const drop = useDroppable({ id: `${cell.location}/${cell.device}`, data: cell, disabled: !editable })
  const menu = site.menus.find((one) => one.key === cell.menu)
  if (cell.placement === 'absent')
    return <span className={`${BOX} border-transparent text-ink-3`}>not on a {cell.device}</span>
  if (cell.placement === 'folded')
    return <span className={`${BOX} border-hair text-ink-2`}>↳ {title(site, cell.folds_into)}</span>
  const acts = editable && <Acts site={site} cell={cell} onAct={onAct} />
  const refused = drop.isOver && dragged ? whyNot(site, cell, dragged) : null
  const over = drop.isOver ? (refused ? 'outline-3 outline-signal' : 'outline-3 outline-dusk') : ''
  const own = cell.placement === 'own'
  const look = !menu
    ? 'border-dashed border-ink-3 text-ink-3'
    : own
      ? 'border-ink bg-plate'
      : `border-hair ${HATCHED}`
  return (
    <span ref={drop.setNodeRef} className={`${BOX} ${look} ${over}`}>
      {refused ? (
        <span className="text-signal">{refused}</span>
      ) : menu ? (
        <Link
          to="/sites/$site/menus/$menu"
          params={{ site: site.key, menu: menu.key }}
          search={lens}
          data-ahead
          title={own ? undefined : `No menu of its own on a ${cell.device}: it takes ${menu.name}`}
          className={`truncate ${own ? 'font-semibold' : 'bg-paper px-0.5 text-ink-2'} hover:underline`}
        >
          {own
            ? menu.name
            : cell.placement === 'inherited'
              ? `← ${cell.from_device}`
              : `↑ ${title(site, cell.from_location)}`}
        </Link>
      ) : (
        <span className="truncate">
          {cell.placement === 'section'
            ? `part of ${title(site, cell.from_location)}`
            : cell.from_device
              ? 'none on purpose ✕'
              : 'nothing hangs'}
        </span>
      )}
      <span className="flex items-center gap-1.5">
        {own && menu?.changed && (
          <Mark kind="waiting">
            <span className="sr-only">draft</span>
          </Mark>
        )}
        {own && menu && menu.pending > 0 && <Mark kind="open">{menu.pending}</Mark>}
        {acts}
      </span>
    </span>
  )
}

const title = (site: Site, location: string | null) =>
  site.locations.find((one) => one.key === location)?.title ?? location

/** Why the place does not take the menu, before it is dropped. */
function whyNot(site: Site, cell: Cell, key: string): string | null {
  const menu = site.menus.find((one) => one.key === key)
  const place = site.locations.find((one) => one.key === cell.location)
  return menu && place && menu.depth > place.depth ? `${menu.depth} levels, takes ${place.depth}` : null
}

function Acts({ site, cell, onAct }: { site: Site; cell: Cell; onAct: (act: Act) => void }) {
  const own = cell.placement === 'own' || (cell.placement === 'none' && cell.from_device === cell.device)
  return (
    <Menu
      button={
        <button
          type="button"
          className="min-h-6 bg-paper px-0.5 text-note whitespace-nowrap text-ink-2 underline decoration-dashed underline-offset-4 hover:text-ink"
          aria-label={`Hang a menu in ${title(site, cell.location)} for ${cell.device}`}
        >
          hang …
        </button>
      }
    >
      {site.menus
        .filter((menu) => !menu.archived)
        .map((menu) => (
          <MenuAct
            key={menu.key}
            disabled={menu.key === cell.menu && cell.placement === 'own'}
            onAct={() => onAct({ do: 'hang', menu: menu.key })}
          >
            {menu.name}
            <span className="text-note text-ink-2">
              {menu.count} · {menu.depth} deep
            </span>
          </MenuAct>
        ))}
      <MenuLine />
      {cell.menu && cell.placement !== 'own' && (
        <MenuAct onAct={() => onAct({ do: 'own' })}>Give the {cell.device} its own, as a copy</MenuAct>
      )}
      {own && <MenuAct onAct={() => onAct({ do: 'take down' })}>Take down</MenuAct>}
      {!(cell.placement === 'none' && cell.from_device) && (
        <MenuAct onAct={() => onAct({ do: 'hang', menu: null })}>None on purpose</MenuAct>
      )}
      {site.release_state === 'failed' && site.connection === 'endpoint' && (
        <>
          <MenuLine />
          <MenuAct onAct={() => onAct({ do: 'read again', what: 'take over' })}>
            Take over what the site shows
          </MenuAct>
          <MenuAct onAct={() => onAct({ do: 'read again', what: 'put back' })}>
            Put back what is live on the shelf
          </MenuAct>
        </>
      )}
    </Menu>
  )
}
