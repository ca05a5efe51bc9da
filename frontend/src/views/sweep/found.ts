import type { Schemas } from '../../api/client'

export type Hit = Schemas['SweptOut']
export type Foreseen = Schemas['ForeseenOut']

export const nameOf = (one: Hit): string => `${one.site} ${one.menu} ${one.item}`

export interface InMenu {
  first: Hit
  hits: Hit[]
}

/** Menu by menu, in the order in which they come. */
export function byMenu(hits: readonly Hit[]): InMenu[] {
  const found: InMenu[] = []
  for (const hit of hits) {
    const last = found.at(-1)
    if (last && last.first.site === hit.site && last.first.menu === hit.menu) last.hits.push(hit)
    else found.push({ first: hit, hits: [hit] })
  }
  return found
}
