import { useMutation, useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { answered, client } from '../../api/client'
import { keys, useAnew } from '../../api/keys'
import { fontsQuery, plainLookQuery } from '../../api/queries'
import { DEVICES, type Device } from '../../lens/lens'
import { Button } from '../../parts/Button'
import { DrawnFrame } from '../../parts/DrawnFrame'
import { Input } from '../../parts/Input'
import { useLeaving } from '../../parts/Question'
import { Scrolled } from '../../parts/Scrolled'
import { Sheet } from '../../parts/Sheet'
import { StepButtons } from '../../parts/StepButtons'
import { Tick } from '../../parts/Tick'
import { Told } from '../../parts/Told'
import { Trouble } from '../../parts/Trouble'
import { useSteps } from '../../parts/useSteps'
import { LocationFields } from './LocationFields'
import { EMPTY_LOCATION, type Location, type Template } from './template'

interface Props {
  /** The template and its version that is looked at. */
  name: string
  version: number
  editable: boolean
  onClose: () => void
}

/** A template as data, with the page that it makes drawn beside it. Keeping it makes the next version. */
export function TemplateEditor({ name, version, editable, onClose }: Props) {
  const found = useQuery({
    queryKey: keys.setup('template', name, version),
    queryFn: () =>
      answered(
        client.GET('/api/templates/{key}/{version}', { params: { path: { key: name, version } } }),
      ).then((document) => document as unknown as Template),
  })
  const anew = useAnew()
  const plain = useQuery(plainLookQuery)
  const fonts = useQuery(fontsQuery).data ?? []
  const steps = useSteps<Template | undefined>(found.data)
  const { value: template, set: setChanged } = steps
  const [chosen, setChosen] = useState(0)
  const [device, setDevice] = useState<Device>('desktop')
  const [state, setState] = useState({ scrolled: false, drawer: false })
  const body = { template: (template ?? {}) as Record<string, never> }
  const drawn = useQuery({
    queryKey: keys.fixed('drawn template', template, device, state),
    enabled: template !== undefined,
    retry: false,
    queryFn: () =>
      answered(client.POST('/api/templates/try', { params: { query: { device, ...state } }, body })),
    placeholderData: (before) => before,
  })
  const keep = useMutation({
    mutationFn: () => answered(client.PUT('/api/templates', { body })),
    onSuccess: async () => {
      await anew.setup()
      onClose()
    },
  })
  const leaving = useLeaving(steps.canUndo, 'the template', onClose)
  if (!template) return <Trouble query={found} />
  const location = template.locations[chosen]
  const setLocation = (next: Location) =>
    setChanged({ ...template, locations: template.locations.map((one, at) => (at === chosen ? next : one)) })
  const others = template.locations.filter((_, at) => at !== chosen)
  return (
    <Sheet
      title={`Template ${template.title ?? template.key}, version ${version}`}
      onOpen={(open) => !open && leaving.leave()}
      className="h-[730px] w-[1190px] grid-cols-[180px_330px_1fr] grid-rows-[auto_1fr] gap-x-5 gap-y-3 p-5"
      onKeyDown={steps.onKeyDown}
      beside={
        <span className="ml-auto flex items-baseline gap-2">
          {editable && <StepButtons steps={steps} />}
          <span className="text-small text-ink-2">Sites stay on their version until they are moved.</span>
          {editable && (
            <Button small tone="go" disabled={!steps.canUndo || keep.isPending} onClick={() => keep.mutate()}>
              Keep as version {version + 1}
            </Button>
          )}
          <Button small onClick={leaving.leave}>
            Close
          </Button>
        </span>
      }
    >
      <Scrolled label="Places of the template" className="border-r border-hair pr-3 text-body">
        <ul>
          {template.locations.map((one, at) => (
            <li key={one.key}>
              <button
                type="button"
                aria-pressed={at === chosen}
                onClick={() => setChosen(at)}
                className={`block w-full border-b border-hair px-1.5 py-1 text-left ${at === chosen ? 'rounded-sign shadow-[inset_0_0_0_1.5px_var(--ink)]' : ''}`}
              >
                {one.title}
                <span className="block text-note text-ink-2">{one.shape}</span>
              </button>
            </li>
          ))}
        </ul>
        {editable && (
          <span className="mt-2 flex gap-2">
            <Button
              small
              onClick={() => {
                const taken = new Set(template.locations.map((one) => one.key))
                const number = [...Array(50).keys()].find((at) => !taken.has(`place-${at + 1}`)) ?? 50
                setChanged({
                  ...template,
                  locations: [...template.locations, { ...EMPTY_LOCATION, key: `place-${number + 1}` }],
                })
                setChosen(template.locations.length)
              }}
            >
              Add a place
            </Button>
            <Button
              small
              tone="quiet"
              disabled={template.locations.length < 2}
              onClick={() => {
                setChanged({ ...template, locations: others })
                setChosen(0)
              }}
            >
              take away
            </Button>
          </span>
        )}
        <h3 className="mt-4 font-bold">Devices, px</h3>
        {DEVICES.map((one) => {
          const range = template.devices[one]
          return (
            <label key={one} className="flex items-center justify-between border-t border-hair py-0.5">
              {one} from
              <Input
                type="number"
                value={range?.[0] ?? 0}
                onChange={(event) =>
                  setChanged({
                    ...template,
                    devices: from(template.devices, one, Number(event.target.value)),
                  })
                }
                className="w-[64px] text-right"
              />
            </label>
          )
        })}
      </Scrolled>
      <Scrolled label="The chosen place" className="border-r border-hair pr-4">
        {location && plain.data && (
          <LocationFields
            key={chosen}
            location={location}
            others={others}
            plain={plain.data}
            fonts={fonts.map((one) => one.family)}
            onChange={setLocation}
          />
        )}
      </Scrolled>
      <div className="flex min-h-0 flex-col">
        <div className="mb-1.5 flex items-baseline gap-3 text-small text-ink-2">
          {DEVICES.map((one) => (
            <button
              key={one}
              type="button"
              aria-pressed={one === device}
              onClick={() => setDevice(one)}
              className={one === device ? 'font-bold text-ink underline' : ''}
            >
              {one}
            </button>
          ))}
          {(['scrolled', 'drawer'] as const).map((one) => (
            <Tick key={one} checked={state[one]} onTick={(checked) => setState({ ...state, [one]: checked })}>
              {one === 'drawer' ? 'drawer open' : one}
            </Tick>
          ))}
        </div>
        <Told error={drawn.error ?? keep.error} />
        <DrawnFrame
          className={`min-h-0 flex-1 ${device === 'phone' ? 'mx-auto w-[300px]' : 'w-full'}`}
          html={drawn.data?.html ?? ''}
          label="The page that the template makes"
          language="en"
          width={drawn.data?.width ?? 1280}
          here={location?.key ?? null}
          onPlace={(place) =>
            setChosen(
              Math.max(
                0,
                template.locations.findIndex((one) => one.key === place),
              ),
            )
          }
        />
      </div>
      {leaving.question}
    </Sheet>
  )
}

/** The ranges with one device beginning elsewhere; the next narrower one ends just before. */
function from(devices: Template['devices'], device: Device, low: number): Template['devices'] {
  const narrower = DEVICES[DEVICES.indexOf(device) + 1]
  const before = narrower && devices[narrower]
  return {
    ...devices,
    [device]: [low, devices[device]?.[1] ?? null],
    ...(narrower && before ? { [narrower]: [before[0], low - 1] } : {}),
  }
}
