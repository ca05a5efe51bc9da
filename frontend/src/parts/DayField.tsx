import { Popover } from 'radix-ui'
import { type KeyboardEvent, useId, useState } from 'react'
import { Calendar } from './Calendar'
import { isWhole, readDay, readMoment, written } from './days'
import { Input } from './Input'
import { Popup } from './Popup'

interface Props {
  /** `2026-11-18`, or with a time behind it; empty where there is none. */
  value: string
  onChange: (value: string) => void
  /** What is asked, where no label around it says so. */
  'aria-label'?: string
  id?: string
  disabled?: boolean
  /** The day it is, on the clock that the field is about; absent: on the reader's own. */
  today?: string
  className?: string
}

/** A day, written so that every country reads the same in it, or chosen from a month. */
export function DayField(props: Props) {
  return <WhenField {...props} read={readDay} example="18 Nov 2026" width="w-[104px]" />
}

/** A day and a time on the site's clock. */
export function MomentField(props: Props) {
  return <WhenField {...props} read={readMoment} example="18 Nov 2026 04:00" width="w-[152px]" timed />
}

type WhenProps = Props & {
  read: (text: string, today: string) => string | null
  example: string
  width: string
  timed?: boolean
}

function WhenField({ value, onChange, read, example, width, timed, className = '', ...rest }: WhenProps) {
  const today = rest.today ?? new Date().toLocaleDateString('sv')
  const [typed, setTyped] = useState<string | null>(null)
  const [open, setOpen] = useState(false)
  const told = useId()
  const meant = typed === null ? value : typed.trim() === '' ? '' : read(typed, today)
  const put = (next: string) => {
    if (next !== value) onChange(next)
  }
  const onType = (text: string) => {
    setTyped(text)
    const found = text.trim() === '' ? '' : read(text, today)
    // While a year is still being typed, no day is meant yet.
    if (found === '' || (found && isWhole(text))) put(found)
  }
  const settle = () => {
    if (meant === null) return
    put(meant)
    setTyped(null)
  }
  const onKeyDown = (event: KeyboardEvent) => {
    if (event.key === 'Enter') settle()
    if (event.key === 'ArrowDown') {
      event.preventDefault()
      settle()
      setOpen(true)
    }
  }
  const choose = (day: string) => {
    setTyped(null)
    put(timed ? `${day}T${value.slice(11, 16) || '00:00'}` : day)
    setOpen(false)
  }
  return (
    <span className={`inline-flex flex-wrap items-baseline ${className}`}>
      <Popover.Root open={open} onOpenChange={setOpen}>
        <Popover.Anchor className="inline-flex items-baseline">
          <Input
            id={rest.id}
            aria-label={rest['aria-label']}
            aria-invalid={meant === null}
            aria-describedby={meant === null ? told : undefined}
            disabled={rest.disabled}
            autoComplete="off"
            placeholder={example}
            value={typed ?? written(value)}
            onChange={(event) => onType(event.target.value)}
            onBlur={settle}
            onKeyDown={onKeyDown}
            className={`tabular-nums ${width}`}
          />
          <Popover.Trigger
            disabled={rest.disabled}
            aria-label={`Choose ${rest['aria-label'] ? `${rest['aria-label']} ` : ''}from a month`}
            className="min-h-6 min-w-6 text-ink-2 enabled:hover:text-ink"
          >
            ▾
          </Popover.Trigger>
        </Popover.Anchor>
        <Popup label="Choose a day" align="start" className="p-3">
          <Calendar value={value.slice(0, 10)} today={today} onChoose={choose} />
        </Popup>
      </Popover.Root>
      {meant === null && typed !== null && (
        <small id={told} role="alert" className="w-full text-signal">
          Write it like {example}.
        </small>
      )}
    </span>
  )
}
