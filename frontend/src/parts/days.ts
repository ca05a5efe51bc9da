/** Days and moments as people write them, and as documents have them: `2026-11-18` and `2026-11-18T04:00`. */

const MONTHS = ['jan', 'feb', 'mar', 'apr', 'may', 'jun', 'jul', 'aug', 'sep', 'oct', 'nov', 'dec']
const DAY = new Intl.DateTimeFormat('en-GB', {
  day: 'numeric',
  month: 'short',
  year: 'numeric',
  timeZone: 'UTC',
})
const MONTH = new Intl.DateTimeFormat('en-GB', { month: 'long', year: 'numeric', timeZone: 'UTC' })
const SPOKEN = new Intl.DateTimeFormat('en-GB', { dateStyle: 'full', timeZone: 'UTC' })

const dateOf = (day: string): Date => new Date(`${day}T00:00Z`)
const isoOf = (date: Date): string => date.toISOString().slice(0, 10)

/** `18 Nov 2026`, which reads the same in every country; with the time behind it where there is one. */
export function written(value: string): string {
  const [day = '', time] = value.split('T')
  if (!day) return ''
  const words = DAY.format(dateOf(day)).replace('Sept', 'Sep')
  return time ? `${words} ${time.slice(0, 5)}` : words
}

export const monthName = (day: string): string => MONTH.format(dateOf(day))
export const spokenDay = (day: string): string => SPOKEN.format(dateOf(day))

export function daysOn(day: string, days: number): string {
  const date = dateOf(day)
  date.setUTCDate(date.getUTCDate() + days)
  return isoOf(date)
}

/** The same day so many months on, or the last of a month that is shorter. */
export function monthsOn(day: string, months: number): string {
  const [year = 0, month = 1, date = 1] = day.split('-').map(Number)
  const last = new Date(Date.UTC(year, month + months, 0)).getUTCDate()
  return isoOf(new Date(Date.UTC(year, month - 1 + months, Math.min(date, last))))
}

/** The weeks, from Monday, that hold the month of the day. */
export function weeksOf(day: string): string[][] {
  const first = `${day.slice(0, 7)}-01`
  const monday = daysOn(first, -((dateOf(first).getUTCDay() + 6) % 7))
  const weeks: string[][] = []
  for (let begin = monday; begin.slice(0, 7) <= day.slice(0, 7) && weeks.length < 6; begin = daysOn(begin, 7))
    weeks.push([...Array(7).keys()].map((at) => daysOn(begin, at)))
  return weeks
}

function day(year: string, month: number, date: string): string | null {
  const iso = `${year}-${String(month).padStart(2, '0')}-${date.padStart(2, '0')}`
  const made = dateOf(iso)
  return Number.isNaN(made.getTime()) || isoOf(made) !== iso ? null : iso
}

/** The day that somebody wrote; null where it is none, or where a reader of another country reads another one in it. */
export function readDay(text: string, today: string): string | null {
  const words = text.trim().toLowerCase().replace(/,/g, ' ')
  const iso = /^(\d{4})-(\d{1,2})-(\d{1,2})$/.exec(words)
  if (iso) return day(iso[1] ?? '', Number(iso[2]), iso[3] ?? '')
  const named =
    /^(?:[a-z]+\.?\s+)?(\d{1,2})(?:st|nd|rd|th)?\.?\s+([a-z]{3})[a-z]*\.?(?:\s+(\d{4}))?$/.exec(words) ??
    swapped(/^([a-z]{3})[a-z]*\.?\s+(\d{1,2})(?:st|nd|rd|th)?(?:\s+(\d{4}))?$/.exec(words))
  if (named) {
    const month = MONTHS.indexOf(named[2] ?? '') + 1
    if (month === 0) return null
    if (named[3]) return day(named[3], month, named[1] ?? '')
    // Without a year, the next such day is meant.
    const this_year = day(today.slice(0, 4), month, named[1] ?? '')
    if (this_year && this_year >= today) return this_year
    return day(String(Number(today.slice(0, 4)) + 1), month, named[1] ?? '')
  }
  const numbers = /^(\d{1,2})[./-](\d{1,2})[./-](\d{4})$/.exec(words)
  if (!numbers) return null
  const [one, other] = [Number(numbers[1]), Number(numbers[2])]
  if (one > 12 || one === other) return day(numbers[3] ?? '', other, String(one))
  return other > 12 ? day(numbers[3] ?? '', one, String(other)) : null
}

const swapped = (found: RegExpExecArray | null): (string | undefined)[] | null =>
  found && [found[0], found[2], found[1], found[3]]

/** The moment that somebody wrote: a day and a time of 24 hours. A day alone begins at midnight. */
export function readMoment(text: string, today: string): string | null {
  const found = /^(.*?)(?:(?:[\s,]+|T)(?:at\s+)?(\d{1,2})[:.h](\d{2}))?$/i.exec(text.trim())
  const date = readDay(found?.[1] ?? '', today)
  const [hour, minute] = [Number(found?.[2] ?? 0), Number(found?.[3] ?? 0)]
  if (!date || hour > 23 || minute > 59) return null
  return `${date}T${String(hour).padStart(2, '0')}:${String(minute).padStart(2, '0')}`
}

export const isWhole = (text: string): boolean => /\d{4}/.test(text)
