/** Where a dragged line would land: geometry only, so that plain numbers are enough to try it. */
import { canHold, depthOf, type Item, type Row, type Spot } from './tree'

export const ROW_HEIGHT = 30
export const LEVEL_WIDTH = 26

export interface Landing extends Spot {
  level: number
  /** The row before which the guide is drawn. */
  row: number
  parent: Item | null
  /** Why it may not land here; null where it may. */
  refusal: string | null
}

/**
 * `rows` are those that stay while `moving` is lifted; `y` is measured from their top, `level` is what the pointer
 * asks for. The level is kept between what the neighbours allow.
 */
export function landing(
  rows: readonly Row[],
  moving: readonly Item[],
  y: number,
  level: number,
  limit: Limit | null,
): Landing {
  const row = Math.max(0, Math.min(rows.length, Math.round(y / ROW_HEIGHT)))
  const above = rows[row - 1]
  const below = rows[row]
  const deepest = above ? above.level + (canHold(above.item) ? 1 : 0) : 1
  const shallowest = Math.min(below?.level ?? 1, deepest)
  const wanted = Math.max(shallowest, Math.min(deepest, level))
  const parentRow = parentAt(rows, row, wanted)
  const siblings = rows.slice(0, row).filter((one) => one.parentId === (parentRow?.item.id ?? null))
  const needed = wanted + Math.max(...moving.map(depthOf)) - 1
  return {
    row,
    level: wanted,
    parentId: parentRow?.item.id ?? null,
    parent: parentRow?.item ?? null,
    index: siblings.length,
    refusal:
      limit && needed > limit.depth
        ? `${limit.title} takes ${limit.depth} levels, this would make ${needed}`
        : null,
  }
}

export interface Limit {
  depth: number
  title: string
}

function parentAt(rows: readonly Row[], row: number, level: number): Row | null {
  for (let at = row - 1; at >= 0; at -= 1) {
    const candidate = rows[at]
    if (candidate && candidate.level === level - 1) return candidate
  }
  return null
}
