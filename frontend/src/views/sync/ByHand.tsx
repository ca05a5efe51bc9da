import { useMutation, useQuery } from '@tanstack/react-query'
import { useChosen } from '../../api/chosen'
import { answered, client, type Schemas } from '../../api/client'
import { useAnew } from '../../api/keys'
import { byHandQuery } from '../../api/queries'
import { Button } from '../../parts/Button'
import { Mark } from '../../parts/Mark'
import { Tick } from '../../parts/Tick'
import { Told } from '../../parts/Told'
import { Trouble } from '../../parts/Trouble'

interface Props {
  site: Schemas['SyncOut']
  release: string
  mayPut: boolean
}

/** What a person carries out on a site that can only be looked at: edit by edit, with what hangs there once it is done. */
export function ByHand({ site, release, mayPut }: Props) {
  const found = useQuery(byHandQuery(site.site, release))
  const anew = useAnew()
  const params = { path: { release } }
  const tick = useChosen(
    (body: Schemas['TickBody']) => answered(client.PUT('/api/releases/{release}/by-hand', { params, body })),
    () => anew.site(site.site),
  )
  const look = useMutation({
    mutationFn: () => answered(client.POST('/api/releases/{release}/by-hand/look', { params })),
    onSettled: () => anew.site(site.site),
  })
  const giveUp = useMutation({
    mutationFn: () => answered(client.POST('/api/releases/{release}/by-hand/give-up', { params })),
    onSettled: () => anew.site(site.site),
  })
  const told = found.data
  if (!told) return <Trouble query={found} />
  const asked = tick.value
  const ticked = (step: string, one: Schemas['ToDoEditOut']) =>
    asked?.step === step && asked.key === one.key ? asked.done : one.done
  const edits = told.places.flatMap((place) => place.edits)
  return (
    <section aria-label="To be done on the site" className="mt-4 border-l-4 border-dusk bg-plate px-3 py-2">
      <h3 className="flex flex-wrap items-baseline gap-x-3 font-bold">
        To be done on the site by hand
        <span className="text-small font-normal text-ink-2">
          {edits.filter((one) => one.done).length} of {edits.length} ticked
        </span>
        <a
          href={told.live_page}
          target="_blank"
          rel="noopener noreferrer"
          className="ml-auto text-small font-normal underline"
        >
          open the live page ↗
        </a>
      </h3>
      {told.says && <p className="text-small text-ink-2">When it was last looked at: {told.says}</p>}
      {told.places.map((place) => (
        <div
          key={place.step}
          className="mt-2 grid grid-cols-[minmax(0,1fr)_minmax(0,1fr)] gap-x-5 border-t border-hair pt-1 max-md:grid-cols-[minmax(0,1fr)]"
        >
          <div>
            <h4 className="flex flex-wrap items-baseline gap-x-2 font-bold">
              {place.title} on the {place.device}
              {place.read && <Mark kind="ok">read back</Mark>}
            </h4>
            <ul>
              {place.edits.map((one) => (
                <li key={one.key} className="py-0.5">
                  <Tick
                    checked={ticked(place.step, one)}
                    disabled={!mayPut}
                    onTick={(done) => tick.choose({ step: place.step, key: one.key, done })}
                  >
                    {one.says}
                  </Tick>
                </li>
              ))}
            </ul>
          </div>
          <div className="text-small">
            <p className="text-ink-2">So that there hangs:</p>
            <ul>
              {place.hangs.map((one, at) => (
                <li key={at} className="truncate" style={{ paddingLeft: `${(one.level - 1) * 16}px` }}>
                  {one.label} {one.address && <span className="mono text-ink-2">{one.address}</span>}
                </li>
              ))}
            </ul>
          </div>
        </div>
      ))}
      {mayPut && (
        <p className="mt-2 flex flex-wrap items-baseline gap-2">
          <Button tone="go" disabled={look.isPending} onClick={() => look.mutate()}>
            Look whether the site shows it
          </Button>
          <Button tone="quiet" disabled={giveUp.isPending} onClick={() => giveUp.mutate()}>
            give it up
          </Button>
        </p>
      )}
      <Told error={tick.error ?? look.error ?? giveUp.error} />
    </section>
  )
}
