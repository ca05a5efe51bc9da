import { useQuery } from '@tanstack/react-query'
import { Popover, Slider } from 'radix-ui'
import { useState } from 'react'
import type { Schemas } from '../../api/client'
import { rulerQuery } from '../../api/queries'
import { type Device, languageName } from '../../lens/lens'
import { useLens } from '../../lens/useLens'
import { Button } from '../../parts/Button'
import { Mark } from '../../parts/Mark'
import { Popup } from '../../parts/Popup'
import { useSettled } from '../../parts/useSettled'

export type Suggestion = Schemas['Suggestion']

const LOW = 320
const HIGH = 1920
const at = (px: number) => `${((Math.min(Math.max(px, LOW), HIGH) - LOW) / (HIGH - LOW)) * 100}%`

interface Props {
  site: string
  location: string
  device: Device
  hash: string
  /** The viewport width that is drawn. */
  width: number
  onWidth: (px: number | null) => void
  editable: boolean
  onSuggestion: (suggestion: Suggestion) => void
  /** Whether there is room for one line alone. */
  folded: boolean
}

/** Viewport widths from 320 to 1 920 px, for every language: where the drawer is, where the bar wraps, where it fits. */
export function Ruler(props: Props) {
  const { site, location, device, hash, width, onWidth, folded } = props
  const lens = useLens()
  const asked = useSettled(`${hash} ${width}`, 500)
  const [settledHash = hash, settledWidth] = asked.split(' ')
  const ruler = useQuery(
    rulerQuery(site, location, { ...lens, device }, settledHash, Number(settledWidth)),
  ).data
  if (!ruler || ruler.languages.length === 0) return null
  const first = ruler.languages[0]
  if (folded)
    return (
      <section aria-label="Ruler" className="flex items-center gap-3 text-note text-ink-2">
        <span className="flex-1 max-md:hidden">
          {first && <Zones one={first} width={width} says={fitsFrom(ruler.languages)} />}
        </span>
        <span className="flex min-w-0 items-center gap-2 max-md:flex-1">
          {first && <Says one={first} width={width} />}
          {ruler.suggestions.length > 0 && <MakeItFit {...props} suggestions={ruler.suggestions} />}
        </span>
      </section>
    )
  return (
    <section aria-label="Ruler" className="mb-1 text-note text-ink-2">
      <Slider.Root
        min={LOW}
        max={HIGH}
        step={1}
        value={[Math.min(Math.max(width, LOW), HIGH)]}
        onValueChange={([px]) => onWidth(px ?? null)}
        className="relative mr-[92px] ml-[64px] flex h-[20px] touch-none items-center select-none"
      >
        <Slider.Track className="relative h-[7px] w-full bg-[repeating-linear-gradient(90deg,var(--ink-2)_0_1px,transparent_1px_6.25%)]" />
        {[400, 800, 1200, 1600].map((px) => (
          <span key={px} className="absolute -top-px -translate-x-1/2 text-note" style={{ left: at(px) }}>
            {px}
          </span>
        ))}
        <Slider.Thumb
          aria-label="Width that is drawn"
          data-px={`${width} px`}
          className="block h-[20px] w-[3px] rounded-xs bg-ink after:absolute after:top-[18px] after:-translate-x-1/2 after:bg-ink after:px-1 after:text-note after:leading-[14px] after:text-paper after:whitespace-nowrap after:content-[attr(data-px)]"
        />
      </Slider.Root>
      {ruler.languages.map((one) => (
        <div key={one.language} className="mt-[5px] flex items-center first-of-type:mt-[15px]">
          <span className="w-[64px] flex-none truncate">{languageName(one.language)}</span>
          <Zones one={one} width={width} says="fits" />
          <span className="w-[92px] flex-none pl-2 text-right">
            {one.fits_from === null ? 'never fits' : `fits from ${one.fits_from}`}
          </span>
        </div>
      ))}
      {first && <Widths one={first} />}
      <p className="mt-0.5 flex items-center gap-2">
        {first && <Says one={first} width={width} />}
        {ruler.suggestions.length > 0 && <MakeItFit {...props} suggestions={ruler.suggestions} />}
      </p>
    </section>
  )
}

/** What happens at which width. `says` stands in the zone in which it fits. */
function Zones({ one, width, says }: { one: Schemas['LanguageFit']; width: number; says: string }) {
  return (
    <span className="relative block h-[15px] flex-1 overflow-hidden border border-hair bg-plate">
      {one.zones
        .filter((zone) => zone.low < HIGH)
        .map((zone) => (
          <span
            key={zone.low}
            title={`${zone.low} to ${zone.high} px: ${zone.says}`}
            className={`absolute inset-y-0 overflow-hidden px-1 text-note leading-[13px] whitespace-nowrap text-ink ${ZONE(zone.says)}`}
            style={{ left: at(zone.low), right: `calc(100% - ${at(zone.high + 1)})` }}
          >
            {zone.says === 'fits' ? says : zone.says}
          </span>
        ))}
      {one.fits_from !== null && (
        <span
          className="absolute inset-y-0 w-[2px] bg-moss"
          style={{ left: at(one.fits_from) }}
          title={`fits from ${one.fits_from} px`}
        />
      )}
      <span className="absolute inset-y-0 w-px bg-ink" style={{ left: at(width) }} />
    </span>
  )
}

/** Of the first language, and of those that need more. */
function fitsFrom([first, ...others]: readonly Schemas['LanguageFit'][]): string {
  const from = (one: Schemas['LanguageFit'] | undefined) => one?.fits_from ?? null
  const more = others.filter((one) => (from(one) ?? HIGH) > (from(first) ?? HIGH))
  return [
    `fits from ${from(first) ?? 'nowhere'}`,
    ...more.map(
      (one) => `${languageName(one.language)} ${from(one) === null ? 'never' : `from ${from(one)}`}`,
    ),
  ].join(' · ')
}

const ZONE = (says: string) =>
  says === 'fits'
    ? 'bg-moss-ground'
    : says === 'drawer'
      ? 'bg-dusk-ground'
      : 'bg-signal-ground border-l border-signal'

/** Every entry's own width, as wide as it is against the whole ruler. */
function Widths({ one }: { one: Schemas['LanguageFit'] }) {
  return (
    <p className="mt-[3px] flex overflow-hidden pl-[64px]">
      {one.entries.map((entry) => (
        <span
          key={entry.id}
          title={`${entry.label}: ${entry.width} px`}
          className="flex-none truncate border-l border-ink-3 px-0.5 text-note leading-[12px]"
          style={{ width: `calc((100% - 92px) * ${entry.width / (HIGH - LOW)})` }}
        >
          {Math.round(entry.width)} {entry.label}
        </span>
      ))}
    </p>
  )
}

function Says({ one, width }: { one: Schemas['LanguageFit']; width: number }) {
  const fits = one.fits_from !== null && width >= one.fits_from
  const over = one.drawer_from_overflow
  const lacking = Object.keys(one.fallbacks)
  return (
    <span className="min-w-0 truncate">
      <Mark kind={fits ? 'ok' : 'stop'}>
        {one.natural} px wide in {languageName(one.language)}
      </Mark>
      {one.first_to_go &&
        ` · first to go: ${one.first_to_go.label} (${Math.round(one.first_to_go.width)} px)`}
      {over && ` · shown and too wide from ${over.low} to ${over.high} px`}
      {lacking.length > 0 && ` · ${lacking.join('')} in another font`}
    </span>
  )
}

function MakeItFit({ suggestions, editable, onSuggestion }: Props & { suggestions: Suggestion[] }) {
  const [open, setOpen] = useState(false)
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger asChild>
        <Button small className="ml-auto">
          Make it fit …
        </Button>
      </Popover.Trigger>
      <Popup label="Make it fit" className="w-[520px] p-3">
        <ul>
          {suggestions.map((one) => (
            <li
              key={`${one.kind} ${one.says}`}
              className="flex items-baseline gap-2 border-t border-hair py-1 first:border-0"
            >
              <span className="min-w-0 flex-1">
                {one.says}
                <span className="block text-note text-ink-2">
                  then {Math.round(one.natural)} px wide,{' '}
                  {one.fits_from === null ? 'still too wide everywhere' : `fits from ${one.fits_from} px`}
                </span>
              </span>
              {editable && one.kind !== 'move' && (
                <Button
                  small
                  aria-label={`Do it: ${one.says}`}
                  onClick={() => {
                    onSuggestion(one)
                    setOpen(false)
                  }}
                >
                  Do it
                </Button>
              )}
            </li>
          ))}
        </ul>
      </Popup>
    </Popover.Root>
  )
}
