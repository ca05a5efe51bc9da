/** Times as people at the agency read them: their own clock for what was done, the site's clock for the site. */
const CLOCK = new Intl.DateTimeFormat('en-GB', { hour: '2-digit', minute: '2-digit', second: '2-digit' })
const DAY = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short' })
const DAY_AND_CLOCK = new Intl.DateTimeFormat('en-GB', {
  day: 'numeric',
  month: 'short',
  hour: '2-digit',
  minute: '2-digit',
})

/** Days of other years name theirs. */
const DAY_OF_YEAR = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', year: 'numeric' })

const day = (moment: Date, now: Date): string =>
  (moment.getFullYear() === now.getFullYear() ? DAY : DAY_OF_YEAR).format(moment)

export const clock = (iso: string): string => CLOCK.format(new Date(iso))

export function when(iso: string, now: Date = new Date()): string {
  const moment = new Date(iso)
  if (moment.getFullYear() !== now.getFullYear()) return DAY_OF_YEAR.format(moment)
  return DAY.format(moment) === DAY.format(now)
    ? CLOCK.format(moment).slice(0, 5)
    : DAY_AND_CLOCK.format(moment)
}

export function ago(iso: string, now: Date = new Date()): string {
  const minutes = Math.round((now.getTime() - new Date(iso).getTime()) / 60_000)
  if (minutes < 1) return 'just now'
  if (minutes < 60) return `${minutes} min ago`
  return minutes < 60 * 24 ? `${Math.round(minutes / 60)} h ago` : day(new Date(iso), now)
}

const CLOCKS = new Map<string, Intl.DateTimeFormat>()

/** One that is kept: making it takes a hundred times as long as asking it. */
function clockOf(zone: string): Intl.DateTimeFormat {
  const known = CLOCKS.get(zone)
  if (known) return known
  const made = new Intl.DateTimeFormat('en-GB', { hour: '2-digit', minute: '2-digit', timeZone: zone })
  CLOCKS.set(zone, made)
  return made
}

export function siteClock(zone: string, now: Date = new Date()): string {
  return `${clockOf(zone).format(now)} ${zone.split('/').at(-1)?.replaceAll('_', ' ')}`
}

/** A month so many before this one: as reports are asked for, and as people call it. */
export function monthOf(back: number, now: Date = new Date()): { month: string; named: string } {
  const middle = new Date(now.getFullYear(), now.getMonth() - back, 15)
  return {
    month: `${middle.getFullYear()}-${String(middle.getMonth() + 1).padStart(2, '0')}`,
    named: middle.toLocaleString('en', { month: 'long', year: 'numeric' }),
  }
}
