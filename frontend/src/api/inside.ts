/**
 * In which change one looks: its id, or `live` for the site as it is live; nothing: the one in which one works. It comes from
 * the address and goes along with every request. Views are drawn anew when it is another, and when one works elsewhere.
 */
import { useSyncExternalStore } from 'react'

let inside: string | undefined
let switches = 0
const listeners = new Set<() => void>()

export const lookedIn = (): string | undefined => inside

export function lookIn(change: string | undefined): void {
  inside = change
}

/** One works in another change from now on. */
export function worksElsewhere(): void {
  switches += 1
  for (const told of listeners) told()
}

function listen(told: () => void): () => void {
  listeners.add(told)
  return () => listeners.delete(told)
}

/** How often one went to work in another change. */
export const useSwitches = (): number => useSyncExternalStore(listen, () => switches)

/** An address of the server for a link, with the change that one looks in. */
export function within(address: string): string {
  return inside ? `${address}${address.includes('?') ? '&' : '?'}in=${inside}` : address
}
