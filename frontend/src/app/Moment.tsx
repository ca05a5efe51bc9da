import { useQuery } from '@tanstack/react-query'
import { Popover, Slider } from 'radix-ui'
import { useEffect, useState } from 'react'
import { timelineQuery } from '../api/queries'
import type { Lens } from '../lens/lens'
import { Button } from '../parts/Button'
import { MomentField } from '../parts/DayField'
import { Popup } from '../parts/Popup'
import { reading, shifted, spanMinutes } from '../parts/readings'

const DAYS = 366
/** A slider's own time for settling, while it is dragged. */
const SETTLES_MS = 140

interface Props {
  site: string
  lens: Lens
  onMoment: (at: string | undefined) => void
}

/** The moment that everything is looked at: a slider over the coming year, with a notch where something changes. */
export function Moment({ site, lens, onMoment }: Props) {
  const { at, ...timeless } = lens
  const timeline = useQuery(timelineQuery(site, { ...timeless, device: 'desktop' }, DAYS)).data
  const [dragged, setDragged] = useState<number | null>(null)
  useEffect(() => {
    if (dragged === null || !timeline) return
    const settle = window.setTimeout(() => {
      onMoment(dragged === 0 ? undefined : shifted(timeline.begins, dragged * 60))
    }, SETTLES_MS)
    return () => window.clearTimeout(settle)
  }, [dragged, timeline, onMoment])
  // What was dragged counts until the address has it: a key pressed meanwhile goes on from there.
  useEffect(() => setDragged(null), [at])
  if (!timeline) return null
  const hours = DAYS * 24
  const shown = at ? Math.round(spanMinutes(timeline.begins, at) / 60) : 0
  const value = Math.min(Math.max(dragged ?? shown, 0), hours)
  const notches = timeline.notches.map((one) => ({
    ...one,
    hour: spanMinutes(timeline.begins, one.at) / 60,
  }))
  const next = notches.find((one) => one.at > (at ?? timeline.now))
  const before = notches.findLast((one) => one.at < (at ?? timeline.now))
  const says = dragged ? reading(shifted(timeline.begins, dragged * 60)) : at ? reading(at) : 'now'
  return (
    <div className="ml-auto flex min-w-0 flex-1 items-center justify-end gap-2 pl-6 max-sm:basis-full max-sm:pl-0">
      <Popover.Root>
        <Popover.Trigger className="chosen px-px tabular-nums" aria-label={`Moment: ${says}`}>
          {says}
        </Popover.Trigger>
        <Popup label="The moment" className="w-[430px] p-3">
          <span className="flex items-baseline gap-2">
            on the site's clock
            <MomentField
              aria-label="the moment"
              today={timeline.now.slice(0, 10)}
              value={(at ?? timeline.now).slice(0, 16)}
              onChange={(moment) => onMoment(moment || undefined)}
            />
          </span>
          <h2 className="mt-3 text-small text-ink-2">Changes by themselves, within a year</h2>
          <ul className="max-h-[300px] overflow-auto">
            {notches.map((one) => (
              <li key={one.at} className="border-t border-hair">
                <button
                  type="button"
                  onClick={() => onMoment(one.at)}
                  className="block w-full py-1 text-left hover:bg-dusk-ground"
                >
                  <strong className="tabular-nums">{reading(one.at)}</strong>{' '}
                  {one.says.slice(0, 3).join('; ')}
                  {one.says.length > 3 && ` and ${one.says.length - 3} more`}
                </button>
              </li>
            ))}
            {notches.length === 0 && <li className="text-ink-2">Nothing.</li>}
          </ul>
        </Popup>
      </Popover.Root>
      <Button
        small
        tone="quiet"
        disabled={!before}
        aria-label="To the change before"
        onClick={() => before && onMoment(before.at)}
      >
        ◂
      </Button>
      <Slider.Root
        min={0}
        max={hours}
        step={24}
        value={[value]}
        onValueChange={([hour]) => setDragged(hour ?? 0)}
        className="relative flex h-[26px] w-full max-w-[330px] touch-none items-center select-none"
      >
        <Slider.Track className="relative h-[3px] w-full bg-wood-2">
          {notches.map((one) => (
            <span
              key={one.at}
              title={`${reading(one.at)}: ${one.says[0]}`}
              className="absolute -top-[6px] h-[7px] w-[2px] bg-dusk"
              style={{ left: `${(one.hour / hours) * 100}%` }}
            />
          ))}
        </Slider.Track>
        <Slider.Thumb
          aria-label="Moment within the coming year"
          aria-valuetext={says}
          className="block h-[18px] w-[9px] rounded-xs border-[1.5px] border-ink bg-plate"
        />
      </Slider.Root>
      <Button
        small
        tone="quiet"
        disabled={!next}
        aria-label="To the next change"
        onClick={() => next && onMoment(next.at)}
      >
        ▸
      </Button>
      <Button small disabled={!at} onClick={() => onMoment(undefined)}>
        Now
      </Button>
    </div>
  )
}
