/** What of a menu that was read comes in: without the lines that stay out, led to the pages that were found for them. */
import type { Incoming } from '../outline/clipboard'
import { childrenOf, type Item, type Row, type Tree, withChildren } from '../outline/tree'

export interface Wanted {
  /** The lines that stay out. */
  out: ReadonlySet<string>
  /** The page that each line without an address shall lead to, by the line. */
  pages: ReadonlyMap<string, string>
}

/** Lines that lead where one of the menu leads already stay out where `already` says so. */
export function wantedOf(found: Incoming, already: boolean, titles: boolean): Wanted {
  const sure = titles ? (found.titles?.matches ?? []).filter((one) => one.sure) : []
  return {
    out: new Set(already ? found.already : []),
    pages: new Map(sure.map((one) => [one.item, one.pages[0]?.ref ?? ''])),
  }
}

/** What stands below a line that stays out moves up to where that stood; a heading of which all stay out goes as well. */
export function taken(items: Tree, wanted: Wanted): Item[] {
  return items.flatMap((item) => {
    const had = childrenOf(item)
    const below = taken(had, wanted)
    if (wanted.out.has(item.id)) return below
    if (item.kind === 'heading' && had.length > 0 && below.length === 0) return []
    return [withChildren(led(item, wanted.pages.get(item.id)), below)]
  })
}

function led(item: Item, page: string | undefined): Item {
  if (!page || (item.kind !== 'link' && item.kind !== 'heading')) return item
  return { ...item, kind: 'link', target: { page } } as Item
}

export interface Shown {
  item: Item
  level: number
  /** Where it comes to stand; null where it stays out. */
  number: string | null
}

/** Every line that was read, in its order, with the place where it comes in. */
export function shown(rows: readonly Row[], coming: readonly Row[]): Shown[] {
  const places = new Map(coming.map((row) => [row.item.id, row]))
  let level = 1
  return rows.map((row) => {
    const place = places.get(row.item.id)
    if (place) level = place.level
    return { item: place?.item ?? row.item, level: place?.level ?? level, number: place?.number ?? null }
  })
}
