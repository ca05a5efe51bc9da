/** Whose page this is, and whether the server still knows them. */
import { useSyncExternalStore } from 'react'
import { listeners } from './listeners'

let owner: string | undefined
let ended = false
/** How often somebody signed in over this page: what was asked before that may still be refused. */
let sittings = 0
const { tell, subscribe } = listeners()

export function belongsTo(person: string): void {
  owner = person
}

export const pageOwner = (): string | undefined => owner

export const sitting = (): number => sittings

/** A request that was sent in this sitting was refused: nobody is signed in any more. */
export function sessionEnded(asked: number): void {
  if (ended || asked !== sittings) return
  ended = true
  tell()
}

export function sessionBack(): void {
  sittings += 1
  ended = false
  tell()
}

export const useSessionEnded = (): boolean => useSyncExternalStore(subscribe, () => ended)

/** Carries on whenever its owner is signed in again, or the line is back; returns how to stop. */
export function whenBack(carryOn: () => void): () => void {
  const back = () => {
    if (!ended) carryOn()
  }
  window.addEventListener('online', back)
  const stop = subscribe(back)
  return () => {
    window.removeEventListener('online', back)
    stop()
  }
}
