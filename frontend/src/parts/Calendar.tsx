import { type KeyboardEvent, useEffect, useRef, useState } from 'react'
import { Button } from './Button'
import { daysOn, monthName, monthsOn, spokenDay, weeksOf } from './days'

const WEEK = ['Mo', 'Tu', 'We', 'Th', 'Fr', 'Sa', 'Su']
const STEPS: Record<string, (day: string) => string> = {
  ArrowLeft: (day) => daysOn(day, -1),
  ArrowRight: (day) => daysOn(day, 1),
  ArrowUp: (day) => daysOn(day, -7),
  ArrowDown: (day) => daysOn(day, 7),
  PageUp: (day) => monthsOn(day, -1),
  PageDown: (day) => monthsOn(day, 1),
  Home: (day) => weeksOf(day).find((week) => week.includes(day))?.[0] ?? day,
  End: (day) => weeksOf(day).find((week) => week.includes(day))?.[6] ?? day,
}

interface Props {
  /** The day that is chosen; empty while none is. */
  value: string
  today: string
  onChoose: (day: string) => void
}

/** A month of days, gone through with the arrow keys (the date grid of WAI-ARIA's authoring practices). */
export function Calendar({ value, today, onChoose }: Props) {
  const [at, setAt] = useState(value || today)
  const [moved, setMoved] = useState(true)
  const there = useRef<HTMLButtonElement>(null)
  useEffect(() => {
    if (moved) there.current?.focus()
  }, [at, moved])
  const onKeyDown = (event: KeyboardEvent) => {
    const step = STEPS[event.key]
    if (!step) return
    event.preventDefault()
    setMoved(true)
    setAt(step(at))
  }
  const turn = (months: number) => {
    setMoved(false)
    setAt(monthsOn(at, months))
  }
  return (
    <div>
      <div className="mb-1 flex items-baseline justify-between gap-2">
        <Button small tone="quiet" aria-label="The month before" onClick={() => turn(-1)}>
          ◂
        </Button>
        <strong aria-live="polite">{monthName(at)}</strong>
        <Button small tone="quiet" aria-label="The month after" onClick={() => turn(1)}>
          ▸
        </Button>
      </div>
      <div
        role="grid"
        aria-label={monthName(at)}
        tabIndex={-1}
        className="tabular-nums"
        onKeyDown={onKeyDown}
      >
        <div role="row" className="grid grid-cols-7 text-center text-note text-ink-2">
          {WEEK.map((day) => (
            <span key={day} role="columnheader">
              {day}
            </span>
          ))}
        </div>
        {weeksOf(at).map((week) => (
          <div key={week[0]} role="row" className="grid grid-cols-7">
            {week.map((day) => (
              <span key={day} role="gridcell" aria-selected={day === value}>
                <button
                  type="button"
                  ref={day === at ? there : undefined}
                  tabIndex={day === at ? 0 : -1}
                  aria-label={spokenDay(day)}
                  aria-current={day === today ? 'date' : undefined}
                  onClick={() => onChoose(day)}
                  className={`h-7 w-8 rounded-xs ${day === value ? 'bg-ink text-paper' : 'hover:bg-dusk-ground'} ${day === value || day.slice(0, 7) === at.slice(0, 7) ? '' : 'text-ink-3'} ${day === today ? 'font-bold underline' : ''}`}
                >
                  {Number(day.slice(8))}
                </button>
              </span>
            ))}
          </div>
        ))}
      </div>
    </div>
  )
}
