import { useMutation } from '@tanstack/react-query'
import { answered, client, type Schemas } from '../../api/client'
import { useAnew } from '../../api/keys'
import { DEVICES } from '../../lens/lens'
import { Button } from '../../parts/Button'
import { Told } from '../../parts/Told'

/** A menu that hangs nowhere: the places that would take it, each on its widest device. */
export function HangItHere({ site, menu }: { site: Schemas['SitePage']; menu: string }) {
  const anew = useAnew()
  const hang = useMutation({
    mutationFn: ({ location, device }: { location: string; device: Schemas['Cell']['device'] }) =>
      answered(
        client.PUT('/api/sites/{site}/places/{location}/{device}', {
          params: { path: { site: site.key, location, device } },
          body: { menu },
        }),
      ),
    onSettled: () => anew.site(site.key),
  })
  const line = site.menus.find((one) => one.key === menu)
  if (!line || line.hangs > 0 || line.archived) return null
  const fits = site.locations.filter((one) => one.shape !== 'section' && one.depth >= line.depth)
  return (
    <div className="mt-3">
      <p className="mb-1">It hangs nowhere yet: nobody gets it. Hang it in</p>
      <ul>
        {fits.map((one) => {
          const device = DEVICES.find((each) => one.devices.includes(each)) ?? 'desktop'
          const there = site.cells.find((cell) => cell.location === one.key && cell.device === device)
          const other = site.menus.find((each) => each.key === there?.menu)
          return (
            <li key={one.key} className="flex items-baseline gap-2 py-0.5">
              <Button
                small
                tone="quiet"
                disabled={hang.isPending}
                onClick={() => hang.mutate({ location: one.key, device })}
              >
                {one.title}
              </Button>
              <span className="text-small">
                on a {device}
                {other && `, in place of ${other.name}`}
              </span>
            </li>
          )
        })}
      </ul>
      <Told error={hang.error} />
    </div>
  )
}
