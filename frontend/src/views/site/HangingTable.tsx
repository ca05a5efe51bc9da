import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Link } from '@tanstack/react-router'
import { DropdownMenu } from 'radix-ui'
import { answered, client, type Schemas } from '../../api/client'
import { DEVICES } from '../../app/lens'
import { useLens } from '../../app/useLens'
import { Mark } from '../../parts/Mark'
import { Told } from '../../parts/Told'

type Site = Schemas['SitePage']
type Cell = Schemas['Cell']

const HATCHED = 'bg-[repeating-linear-gradient(135deg,transparent_0_7px,var(--hair)_7px_8px)]'

/** Locations down, devices across: own menus solid, inherited ones hatched with where they come from. */
export function HangingTable({ site, editable }: { site: Site; editable: boolean }) {
  const lens = useLens()
  const queries = useQueryClient()
  const hang = useMutation({
    mutationFn: ({ cell, menu }: { cell: Cell; menu: string }) =>
      answered(
        client.PUT('/api/sites/{site}/places/{location}/{device}', {
          params: { path: { site: site.key, location: cell.location, device: cell.device } },
          body: { menu },
        }),
      ),
    onSuccess: () => queries.invalidateQueries(),
  })
  return (
    <>
      <Told error={hang.error} />
      <table className="mt-1 border-separate border-spacing-x-3 border-spacing-y-2 text-left">
        <caption className="sr-only">Which menu hangs in which place on which device</caption>
        <thead>
          <tr>
            <td />
            {DEVICES.map((device) => (
              <th
                key={device}
                scope="col"
                className={`w-[240px] text-[12px] text-ink-2 ${lens.device === device ? 'underline decoration-wood decoration-2 underline-offset-4' : ''}`}
              >
                {device} <span className="font-normal">{widths(site, device)}</span>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {site.locations.map((location) => (
            <tr key={location.key}>
              <th scope="row" className="max-w-[150px] pr-2 align-top text-[13.5px]">
                {location.title}
                <span className="block text-[12px] font-normal text-ink-2">
                  {location.shape}, {location.depth === 1 ? '1 level' : `${location.depth} levels`}
                </span>
              </th>
              {DEVICES.map((device) => {
                const cell = site.cells.find((one) => one.location === location.key && one.device === device)
                return (
                  <td key={device} className="align-top">
                    {cell && (
                      <Hung
                        site={site}
                        cell={cell}
                        editable={editable}
                        onHang={(menu) => hang.mutate({ cell, menu })}
                      />
                    )}
                  </td>
                )
              })}
            </tr>
          ))}
        </tbody>
      </table>
    </>
  )
}

function widths(site: Site, device: keyof Site['device_widths']): string {
  const range = site.device_widths[device]
  if (!range) return ''
  const { low, high } = range
  return high === null ? `${low}+` : low === 0 ? `to ${high}` : `${low}–${high}`
}

const BOX =
  'flex min-h-[34px] w-full items-center justify-between gap-2 rounded-sign border-[1.5px] px-2.5 py-1 text-[13px]'

function Hung({
  site,
  cell,
  editable,
  onHang,
}: {
  site: Site
  cell: Cell
  editable: boolean
  onHang: (menu: string) => void
}) {
  const lens = useLens()
  const menu = site.menus.find((one) => one.key === cell.menu)
  if (cell.placement === 'absent')
    return <span className={`${BOX} border-hair text-ink-3`}>not on this device</span>
  if (cell.placement === 'folded')
    return <span className={`${BOX} border-hair text-ink-2`}>folds into {title(site, cell.folds_into)}</span>
  const swap = editable && <Swap site={site} cell={cell} onHang={onHang} />
  if (!menu) {
    return (
      <span className={`${BOX} border-dashed border-ink-3 text-ink-3`}>
        {cell.from_device ? 'none on purpose ✕' : 'nothing hangs here'} {swap}
      </span>
    )
  }
  const own = cell.placement === 'own'
  return (
    <span className={`${BOX} ${own ? 'border-ink bg-plate' : `border-hair ${HATCHED}`}`}>
      <Link
        to="/sites/$site/menus/$menu"
        params={{ site: site.key, menu: menu.key }}
        search={lens}
        className={`truncate ${own ? 'font-semibold' : 'bg-paper px-0.5 text-ink-2'} hover:underline`}
      >
        {own
          ? menu.name
          : cell.placement === 'inherited'
            ? `from ${cell.from_device} ←`
            : `from ${title(site, cell.from_location)} ↑`}
      </Link>
      <span className="flex items-center gap-2">
        {own && menu.changed && <Mark kind="waiting">draft</Mark>}
        {own && menu.pending > 0 && <Mark kind="open">{menu.pending} open</Mark>}
        {swap}
      </span>
    </span>
  )
}

const title = (site: Site, location: string | null) =>
  site.locations.find((one) => one.key === location)?.title ?? location

function Swap({ site, cell, onHang }: { site: Site; cell: Cell; onHang: (menu: string) => void }) {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger
        className="bg-paper px-0.5 text-[12px] text-ink-2 underline decoration-dashed underline-offset-4 hover:text-ink"
        aria-label={`Hang a menu in ${title(site, cell.location)} for ${cell.device}`}
      >
        hang …
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          sideOffset={4}
          className="z-40 rounded-sign border border-ink bg-plate p-1 shadow-lg"
        >
          {site.menus.map((menu) => (
            <DropdownMenu.Item
              key={menu.key}
              disabled={menu.key === cell.menu && cell.placement === 'own'}
              onSelect={() => onHang(menu.key)}
              className="flex cursor-pointer justify-between gap-6 rounded-xs px-3 py-1 outline-none data-[disabled]:text-ink-3 data-[highlighted]:bg-dusk-ground"
            >
              {menu.name}
              <span className="text-[12px] text-ink-2">
                {menu.count} · {menu.depth} deep
              </span>
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  )
}
