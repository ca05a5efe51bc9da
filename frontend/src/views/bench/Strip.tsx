import { useQuery } from '@tanstack/react-query'
import { Link } from '@tanstack/react-router'
import { memo, useCallback, useState } from 'react'
import type { Schemas } from '../../api/client'
import { resolvedQuery } from '../../api/queries'
import { type Device, spoken } from '../../lens/lens'
import { useLens } from '../../lens/useLens'
import { Button } from '../../parts/Button'
import { Words } from '../../parts/Words'
import { Ruler, type Suggestion } from './Ruler'
import { HOLDS, type Hold, StripFrame } from './StripFrame'

interface Props {
  bench: Schemas['BenchPage']
  /** The saved revision that is shown. */
  hash: string
  onItem: (id: string) => void
  /** The chosen line, shown marked. */
  chosen: string | null
  editable: boolean
  /** Carries out what would make the bar fit. */
  onSuggestion: (suggestion: Suggestion) => void
  /** Whether it is folded to a line. */
  folded: boolean
  onFold: (folded: boolean) => void
}

/** The menu as visitors get it: in its place on a wide screen, and beside it what a phone gets. */
export const Strip = memo(function Strip(props: Props) {
  const { bench, hash, onItem, chosen, folded, onFold } = props
  const lens = useLens()
  const [hold, setHold] = useState<Hold>('open')
  const wide: Device = lens.device === 'phone' ? 'desktop' : lens.device
  const shared = { ...props, bench, hash, onItem, chosen, hold }
  const fold = (
    <Button small tone="quiet" aria-expanded={!folded} onClick={() => onFold(!folded)}>
      {folded ? 'unfold' : 'fold'}
    </Button>
  )
  if (folded)
    return (
      <section
        aria-label="As visitors get it"
        className="col-span-full flex items-start gap-3 border-b border-hair bg-paper-2 px-[18px] py-1"
      >
        <div className="min-w-0 flex-1">
          <OneDevice {...shared} device={lens.device} marked />
        </div>
        {fold}
      </section>
    )
  return (
    <section
      aria-label="As visitors get it"
      className="col-span-full grid h-[262px] grid-cols-[minmax(0,1fr)_300px] gap-4 overflow-hidden border-b border-hair bg-paper-2 px-[18px] pt-2 max-md:grid-cols-[minmax(0,1fr)]"
    >
      <OneDevice {...shared} device={wide} marked={lens.device === wide}>
        <Words
          name="The state that is held"
          says="hold"
          value={hold}
          options={HOLDS}
          onChoose={setHold}
          className="ml-auto text-note text-ink-2"
        />
        {fold}
      </OneDevice>
      <OneDevice {...shared} device="phone" marked={lens.device === 'phone'} />
    </section>
  )
})

/** The room of the strip, and of the track below it, before they are there. */
export const StripToCome = ({ folded }: { folded: boolean }) => (
  <div className={`col-span-full border-b border-hair bg-paper-2 ${folded ? 'h-[84px]' : 'h-[282px]'}`} />
)

interface OneProps extends Props {
  device: Device
  marked: boolean
  hold: Hold
  children?: React.ReactNode
}

function OneDevice(props: OneProps) {
  const { bench, hash, device, marked, onItem, chosen, hold, folded, children } = props
  const lens = useLens()
  const language = spoken(bench.site.languages, lens)[0] ?? 'en'
  const place = bench.places.find((one) => one.device === device)
  const loose = bench.places.length === 0
  const other = place || loose ? null : insteadOn(bench, device)
  const [drawn, setDrawn] = useState<{ px: number; scale: number } | null>(null)
  const [asked, setAsked] = useState<number | null>(null)
  const location = bench.site.locations.find((one) => one.key === place?.location)
  const ruled = device !== 'phone' && place && location
  const onWidth = useCallback((px: number, scale: number) => setDrawn({ px, scale }), [])
  const shown = other?.menu.key ?? bench.key
  const got = useQuery({
    ...resolvedQuery(
      bench.site.key,
      shown,
      { ...lens, device, language },
      place?.location ?? other?.cell.location ?? null,
      hash,
    ),
    enabled: Boolean(place) || loose || other !== null,
  })
  return (
    <div className="flex min-h-0 min-w-0 flex-col">
      <div
        className={`mb-1 flex items-baseline gap-3 text-note ${folded ? 'mb-0' : ''} ${marked ? 'font-semibold text-ink' : 'text-ink-2'}`}
      >
        <p className="min-w-0 truncate">
          {device}
          {place && ` · ${place.title}${FROM[place.placement]}`}
          {loose && ' · hangs nowhere yet'}
          {other && <InsteadOf site={bench.site.key} menu={other.menu} />}
          {got.data &&
            got.data.drawn < got.data.entries &&
            ` · the first ${got.data.drawn} of ${got.data.entries} entries`}
          {drawn &&
            !folded &&
            drawn.scale < 0.995 &&
            ` · ${drawn.px} px wide, drawn at ${Math.round(drawn.scale * 100)} %`}
        </p>
        {children}
      </div>
      {ruled && (
        <Ruler
          site={bench.site.key}
          location={place.location}
          device={device}
          hash={hash}
          width={asked ?? drawn?.px ?? bench.site.device_widths[device]?.low ?? 1100}
          onWidth={setAsked}
          editable={props.editable}
          onSuggestion={props.onSuggestion}
          folded={folded}
        />
      )}
      {folded && !ruled ? null : place || loose || other ? (
        <StripFrame
          html={got.data?.strip ?? ''}
          label={`What a ${device} shows`}
          language={language}
          at={asked}
          drawerBelow={location?.look.drawer_below ?? null}
          atLeast={bench.site.device_widths[device]?.low ?? 0}
          onWidth={onWidth}
          onItem={other ? nothing : onItem}
          chosen={other ? null : chosen}
          hold={folded ? 'normal' : hold}
          low={folded}
        />
      ) : (
        <p className="rounded-sign border border-dashed border-ink-3 px-3 py-4 text-small text-ink-2">
          This menu is not shown on a {device}.
        </p>
      )}
    </div>
  )
}

const nothing = () => undefined

const FROM = { own: '', inherited: ', as on wider screens', 'stand-in': ', standing in' } as const

/** The menu that the device gets in the drawer in place of this one. */
function insteadOn(bench: Schemas['BenchPage'], device: Device) {
  const drawers = new Set(bench.site.locations.filter((one) => one.shape === 'drawer').map((one) => one.key))
  const cell = bench.site.cells.find((one) => one.device === device && one.menu && drawers.has(one.location))
  const menu = cell && bench.site.menus.find((one) => one.key === cell.menu)
  return cell && menu ? { cell, menu } : null
}

function InsteadOf({ site, menu }: { site: string; menu: Schemas['MenuLine'] }) {
  const lens = useLens()
  return (
    <>
      {' '}
      · gets another menu,{' '}
      <Link
        to="/sites/$site/menus/$menu"
        params={{ site, menu: menu.key }}
        search={lens}
        className="font-semibold text-ink underline"
      >
        {menu.name}
      </Link>
    </>
  )
}
