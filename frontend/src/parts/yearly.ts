/** Days that come every year, as they are said: held to the server's words by the browser's tests. */
const NUMBERS = ['first', 'second', 'third', 'fourth'] as const
const WEEKDAY = new Intl.DateTimeFormat('en-GB', { weekday: 'long', timeZone: 'UTC' })
const MONTH = new Intl.DateTimeFormat('en-GB', { month: 'long', timeZone: 'UTC' })

/** By which days what goes at this reading may come again. */
export function dayChoices(reading: string): [value: 'date' | 'weekday' | 'last weekday', says: string][] {
  const day = new Date(`${reading.slice(0, 10)}T00:00Z`)
  const [date, month, weekday] = [day.getUTCDate(), MONTH.format(day), WEEKDAY.format(day)]
  const days = new Date(Date.UTC(day.getUTCFullYear(), day.getUTCMonth() + 1, 0)).getUTCDate()
  const which = NUMBERS[Math.floor((date - 1) / 7)]
  return [
    ['date', `on ${date} ${month}`],
    ...(which ? [['weekday', `on the ${which} ${weekday} of ${month}`] as ['weekday', string]] : []),
    ...(date + 7 > days
      ? [['last weekday', `on the last ${weekday} of ${month}`] as ['last weekday', string]]
      : []),
  ]
}
