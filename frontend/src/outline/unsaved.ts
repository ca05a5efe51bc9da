/** What is not saved yet, kept in the browser's own storage for whoever typed it, and for nobody else. */
import type { MenuDocument } from './tree'

export interface Unsaved {
  site: string
  siteName: string
  menu: string
  /** The saved revision that it is on top of. */
  hash: string
  /** The change that it belongs to. */
  home?: string
  document: MenuDocument
  /** How many edits it is away from that. */
  edits?: number
}

const prefixOf = (person: string): string => `sign-shelf unsaved ${person} `
const keyOf = (person: string, site: string, menu: string): string => `${prefixOf(person)}${site}/${menu}`
const CHANGED = 'sign-shelf-unsaved'

function tell(): void {
  window.dispatchEvent(new Event(CHANGED))
}

export function readUnsaved(person: string, site: string, menu: string): Unsaved | null {
  return read(keyOf(person, site, menu))
}

function read(key: string): Unsaved | null {
  try {
    return JSON.parse(localStorage.getItem(key) ?? 'null')
  } catch {
    return null
  }
}

/** Whether the browser keeps it: it may be full, or keep nothing. */
export function keepUnsaved(person: string, kept: Unsaved): boolean {
  const key = keyOf(person, kept.site, kept.menu)
  try {
    localStorage.setItem(key, JSON.stringify(kept))
    tell()
    return true
  } catch {
    return false
  }
}

export function dropUnsaved(person: string, site: string, menu: string): void {
  const key = keyOf(person, site, menu)
  if (localStorage.getItem(key) === null) return
  localStorage.removeItem(key)
  tell()
}

/** All that the person has not saved yet. */
export function allUnsaved(person: string): Unsaved[] {
  const prefix = prefixOf(person)
  return Object.keys(localStorage)
    .filter((key) => key.startsWith(prefix))
    .sort()
    .map(read)
    .filter((one) => one !== null)
}

/** Carries on whenever something is kept or let go of, here or in another tab; returns how to stop. */
export function whenUnsavedChanges(carryOn: () => void): () => void {
  window.addEventListener(CHANGED, carryOn)
  window.addEventListener('storage', carryOn)
  return () => {
    window.removeEventListener(CHANGED, carryOn)
    window.removeEventListener('storage', carryOn)
  }
}
