/** One person's undo history of a menu kept in the browser (IndexedDB), so that it survives a reload. */
import { del, get, set } from 'idb-keyval'
import type { History } from './history'
import { type Tree, written } from './tree'

export interface Remembered {
  /** The saved revision that `history.present` is; null while it is not saved. */
  hash: string | null
  history: History
}

const keyOf = (person: string, site: string, menu: string): string =>
  `sign-shelf history ${person} ${site}/${menu}`
/** States share what they have in common, also in the browser's storage: it keeps references within one record. */
const KEPT_STEPS = 200

// The first look into the browser's storage takes longest: by the time that a menu is opened, it is done.
void recall('', '', '')

export async function recall(person: string, site: string, menu: string): Promise<Remembered | null> {
  try {
    return (await get<Remembered>(keyOf(person, site, menu))) ?? null
  } catch {
    return null
  }
}

export async function remember(person: string, site: string, menu: string, kept: Remembered): Promise<void> {
  const { history } = kept
  const short = {
    ...history,
    past: history.past.slice(-KEPT_STEPS),
    future: history.future.slice(0, KEPT_STEPS),
  }
  try {
    if (history.past.length + history.future.length === 0) await del(keyOf(person, site, menu))
    else await set(keyOf(person, site, menu), { ...kept, history: short })
  } catch {
    // A browser without storage: undo then ends with the page.
  }
}

/** The history that belongs to the tree the bench opens with; null where it belongs to another state of the menu. */
export function historyFor(
  kept: Remembered | null,
  opened: { hash: string; name: string; tree: Tree; unsaved: boolean },
): History | null {
  if (!kept) return null
  const { present } = kept.history
  const same = opened.unsaved
    ? present.name === opened.name && JSON.stringify(written(present.tree)) === JSON.stringify(opened.tree)
    : kept.hash === opened.hash
  return same ? { ...kept.history, run: null } : null
}
