/** Readings of a site's clock, such as 2027-04-01T04:00: told, and counted with as if the clock never changed. */
import { written } from './days'

const plain = (at: string): Date => new Date(`${at.slice(0, 16)}Z`)

export function reading(at: string): string {
  return `${written(at.slice(0, 16)).replace(' 00:00', '')}${at.length > 16 ? ' (again)' : ''}`
}

export const spanMinutes = (from: string, to: string): number =>
  (plain(to).getTime() - plain(from).getTime()) / 60_000

export const shifted = (at: string, minutes: number): string =>
  new Date(plain(at).getTime() + minutes * 60_000).toISOString().slice(0, 16)
