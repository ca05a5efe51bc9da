import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import type { Schemas } from '../../api/client'
import { drawnPlacesQuery, siteQuery } from '../../api/queries'
import { DEVICES, type Device } from '../../lens/lens'
import { useLens } from '../../lens/useLens'
import { Choice } from '../../parts/Choice'
import { DrawnFrame } from '../../parts/DrawnFrame'
import { Trouble } from '../../parts/Trouble'
import { Waiting } from '../../parts/Waiting'
import { Words } from '../../parts/Words'

const USUAL: Record<Device, number> = { phone: 375, tablet: 820, desktop: 1280 }

/** The places that a change draws otherwise, before over after, on a device, in a language, at the widths that matter. */
export function BeforeAfter({ change, site }: { change: string; site: string }) {
  const lens = useLens()
  const [device, setDevice] = useState<Device>(lens.device)
  const languages = useQuery(siteQuery(site)).data?.languages ?? []
  const [spoken, setSpoken] = useState(lens.language)
  const [width, setWidth] = useState<number | null>(null)
  const found = useQuery(drawnPlacesQuery(change, site, device, spoken))
  const places = found.data ?? []
  const widths = matter(places, device)
  const shown = width !== null && widths.some(([one]) => one === width) ? width : USUAL[device]
  return (
    <section aria-label="Places as they are drawn" className="mt-2">
      <p className="flex flex-wrap items-baseline gap-x-4 text-small text-ink-2">
        <Words name="Device" value={device} options={DEVICES} onChoose={setDevice} dotted />
        {languages.length > 1 && (
          <Choice
            aria-label="Language"
            value={spoken && languages.includes(spoken) ? spoken : languages[0]}
            options={languages}
            onChoose={setSpoken}
          />
        )}
        <label>
          in a window of{' '}
          <Choice
            value={String(shown)}
            options={widths.map(([one, says]): [string, string] => [String(one), says])}
            onChoose={(next) => setWidth(Number(next))}
          />
        </label>
      </p>
      <Trouble query={found} />
      {!found.data && !found.error && <Waiting />}
      {found.data?.length === 0 && (
        <p className="text-ink-2">On a {device} every place is drawn as before.</p>
      )}
      {places.map((place) => (
        <div key={place.location} className="mt-2">
          <h5 className="text-small text-ink-2">
            {place.title}
            {fits(place)}
          </h5>
          <div className="grid gap-1">
            {(['before', 'after'] as const).map((side) => (
              <div key={side} className="grid grid-cols-[44px_minmax(0,1fr)] items-center gap-2">
                <span className="text-note text-ink-2">{side}</span>
                {place[side] ? (
                  <DrawnFrame
                    html={place[side].html}
                    label={`${place.title}, ${side}`}
                    language={spoken ?? 'en'}
                    width={shown}
                    className={
                      place.shape === 'bar' || place.shape === 'line'
                        ? device === 'phone'
                          ? 'h-[160px]'
                          : 'h-[60px]'
                        : 'h-[180px]'
                    }
                  />
                ) : (
                  <span className="text-small text-ink-2">nothing</span>
                )}
              </div>
            ))}
          </div>
        </div>
      ))}
    </section>
  )
}

/** Where either side just fits in one row, and just does not. */
function matter(places: Schemas['DrawnPlaceOut'][], device: Device): [number, string][] {
  const found = new Map<number, string>([[USUAL[device], `${USUAL[device]} px`]])
  for (const place of places) {
    for (const side of ['before', 'after'] as const) {
      const from = place[side]?.fits_from
      if (!from) continue
      found.set(from, `${from} px: ${place.title} just fits ${side}`)
      found.set(from - 1, `${from - 1} px: ${place.title} no longer fits ${side}`)
    }
  }
  return [...found].sort(([one], [two]) => two - one)
}

function fits({ before, after }: Schemas['DrawnPlaceOut']): string {
  const [was, now] = [before?.fits_from, after?.fits_from]
  if (!was && !now) return ''
  if (was === now) return ` · fits from ${now} px, as before`
  return ` · fits from ${[was && `${was} px before`, now && `${now} px after`].filter(Boolean).join(', from ')}`
}
