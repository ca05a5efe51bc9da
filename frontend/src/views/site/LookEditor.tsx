import { useMutation, useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { answered, client, type Schemas } from '../../api/client'
import { within } from '../../api/inside'
import { keys, useAnew } from '../../api/keys'
import { fontsQuery, siteQuery, sitesQuery } from '../../api/queries'
import { useLens } from '../../lens/useLens'
import { Button } from '../../parts/Button'
import { Choice } from '../../parts/Choice'
import { DrawnFrame } from '../../parts/DrawnFrame'
import { LookFields } from '../../parts/LookFields'
import { Mark } from '../../parts/Mark'
import { Menu, MenuAct } from '../../parts/Menu'
import { useLeaving } from '../../parts/Question'
import { Scrolled } from '../../parts/Scrolled'
import { Sheet } from '../../parts/Sheet'
import { StepButtons } from '../../parts/StepButtons'
import { Told } from '../../parts/Told'
import { useSteps } from '../../parts/useSteps'

type Look = Schemas['PlaceLook']

interface Props {
  site: Schemas['SitePage']
  location: string
  editable: boolean
  onClose: () => void
}

const STATES = ['normal', 'hover', 'current', 'open'] as const

/** A place's look on this site, drawn in every state while it is changed, with what can be read and tapped. */
export function LookEditor({ site, location, editable, onClose }: Props) {
  const lens = useLens()
  const anew = useAnew()
  const place = site.locations.find((one) => one.key === location)
  const steps = useSteps<Look>(place?.look ?? ({} as Look))
  const { value: look, set: setLook } = steps
  const fonts = useQuery(fontsQuery).data ?? []
  const device =
    place && !place.devices.includes(lens.device) ? (place.devices.at(-1) ?? 'desktop') : lens.device
  const path = { site: site.key, location }
  const body = { look: look as Record<string, never> }
  const tried = useQuery({
    queryKey: keys.site(site.key, 'look', location, device, lens.language, look),
    queryFn: () =>
      answered(
        client.POST('/api/sites/{site}/looks/{location}/try', {
          params: { path, query: { device, language: lens.language } },
          body,
        }),
      ),
    placeholderData: (before) => before,
    retry: false,
  })
  const keep = useMutation({
    mutationFn: () => answered(client.PUT('/api/sites/{site}/looks/{location}', { params: { path }, body })),
    onSuccess: async () => {
      await anew.site(site.key)
      onClose()
    },
  })
  const changed = JSON.stringify(look) !== JSON.stringify(place?.look ?? {})
  const leaving = useLeaving(changed, `the look of ${place?.title ?? location}`, onClose)
  const width = site.device_widths[device]?.low ?? 1100
  return (
    <Sheet
      title={`The look of ${place?.title ?? location}`}
      onOpen={(open) => !open && leaving.leave()}
      className="h-[720px] w-[1180px] grid-cols-[400px_1fr] grid-rows-[auto_1fr] gap-x-5 gap-y-3 p-5"
      onKeyDown={steps.onKeyDown}
      beside={
        <span className="ml-auto flex items-baseline gap-2">
          {editable && <StepButtons steps={steps} />}
          <a className="text-small underline" href={within(`/api/sites/${site.key}/looks.css`)} download>
            CSS properties
          </a>
          <a className="text-small underline" href={within(`/api/sites/${site.key}/looks.tokens`)} download>
            design tokens
          </a>
          {editable && (
            <Button small tone="go" disabled={keep.isPending} onClick={() => keep.mutate()}>
              Keep this look
            </Button>
          )}
          <Button small onClick={leaving.leave}>
            Close
          </Button>
        </span>
      }
    >
      <Scrolled label="What the look says" className="border-r border-hair pr-4">
        <CopyFrom onLook={setLook} />
        <LookFields look={look} fonts={fonts.map((one) => one.family)} onChange={setLook} />
      </Scrolled>
      <Scrolled label="How it looks" className="flex flex-col gap-2">
        <Told error={tried.error ?? keep.error} />
        {STATES.map((state) => (
          <div key={state}>
            <h3 className="text-small text-ink-2">{state}</h3>
            <DrawnFrame
              className={state === 'open' ? 'h-[170px]' : 'h-[74px]'}
              html={tried.data?.strip ?? ''}
              label={`${place?.title}, ${state}`}
              language={lens.language ?? site.languages[0] ?? 'en'}
              width={Math.max(width, device === 'phone' ? 390 : 900)}
              hold={state}
            />
          </div>
        ))}
        <div className="grid grid-cols-2 gap-4 text-small">
          <Legible told={tried.data} />
        </div>
      </Scrolled>
      {leaving.question}
    </Sheet>
  )
}

const PAIRS = { text: 'words', button: 'words of a button', below: 'words of levels below' } as const

function Legible({ told }: { told: Schemas['LookOut'] | undefined }) {
  return (
    <>
      <section>
        <h3 className="font-bold">Contrast (WCAG 2.2 AA)</h3>
        <ul>
          {told?.contrasts.map((one) => (
            <li key={`${one.pair} ${one.state}`} className="flex items-center gap-2">
              <span
                className="inline-block w-8 rounded-xs border border-hair text-center text-note"
                style={{ color: one.text, background: one.ground }}
              >
                Aa
              </span>
              {PAIRS[one.pair]}
              {one.pair === 'text' && `, ${one.state}`}
              <Mark kind={one.passes ? 'ok' : 'stop'}>
                {one.ratio.toFixed(2)}, needs {one.needed}
              </Mark>
            </li>
          ))}
        </ul>
      </section>
      <section>
        <h3 className="font-bold">Tap area (24 px)</h3>
        <ul>
          {told?.taps.map((one) => (
            <li key={one.what} className="flex gap-2">
              {one.what} <Mark kind={one.passes ? 'ok' : 'stop'}>{one.height} px high</Mark>
            </li>
          ))}
        </ul>
      </section>
    </>
  )
}

/** The look of any place of any site, taken over as it is. */
function CopyFrom({ onLook }: { onLook: (look: Look) => void }) {
  const boards = useQuery(sitesQuery).data ?? []
  const [from, setFrom] = useState('')
  const other = useQuery({ ...siteQuery(from), enabled: from !== '' })
  return (
    <p className="mb-2 flex flex-wrap items-baseline gap-2 border-b border-hair pb-2 text-small text-ink-2">
      copy the look of
      <Choice
        aria-label="Site to copy a look from"
        value={from}
        onChoose={(value) => setFrom(value)}
        className="max-w-[150px]"
      >
        <option value="">a site</option>
        {boards.map((board) => (
          <option key={board.key} value={board.key}>
            {board.name}
          </option>
        ))}
      </Choice>
      {other.data && (
        <Menu
          align="start"
          button={
            <button type="button" className="choice">
              a place
            </button>
          }
        >
          {other.data.locations.map((one) => (
            <MenuAct key={one.key} onAct={() => onLook(one.look)}>
              {one.title}
            </MenuAct>
          ))}
        </Menu>
      )}
    </p>
  )
}
