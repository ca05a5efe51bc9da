/** What choosing a goal or typing a label makes of an item. */
import type { Choice } from './choices'
import { childrenOf, type Item } from './tree'

export function relabelled(item: Item, language: string, words: string): Item {
  if (item.kind === 'divider' || item.kind === 'include') return item
  const { [language]: _, ...others } = item.label ?? {}
  return { ...item, label: words ? { [language]: words, ...others } : others } as Item
}

type Shared = Pick<Item, 'id' | 'from' | 'until' | 'when' | 'devices' | 'origin'>

const sharedBy = ({ id, from, until, when, devices, origin }: Item): Shared =>
  JSON.parse(JSON.stringify({ id, from, until, when, devices, origin }))

/** The item leading to what was chosen, of the kind that this takes. Its label, dress and lines below stay. */
export function pointed(item: Item, choice: Choice, language: string): Item {
  const label = 'label' in item || item.kind === 'link' || item.kind === 'listing' ? (item.label ?? {}) : {}
  const look = 'look' in item && item.look ? { look: item.look } : {}
  const below = childrenOf(item)
  const items = below.length > 0 ? { items: [...below] } : {}
  switch (choice.kind) {
    case 'link': {
      const words = choice.title ? (choice.title[language] ?? Object.values(choice.title)[0]) : undefined
      const named = Object.keys(label).length > 0 || !words ? label : { [language]: words }
      const tab = item.kind === 'link' ? { new_tab: item.new_tab, rel: item.rel } : {}
      return {
        ...sharedBy(item),
        kind: 'link',
        label: named,
        target: choice.target,
        ...tab,
        ...choice.usual,
        ...look,
        ...items,
      } as Item
    }
    case 'opener': {
      const named = Object.keys(label).length > 0 ? label : { [language]: choice.overlay }
      return {
        ...sharedBy(item),
        kind: 'opener',
        label: named,
        target: { overlay: choice.overlay },
        ...look,
        ...items,
      } as Item
    }
    case 'listing':
      return { ...sharedBy(item), kind: 'listing', label, list: choice.list, ...look } as Item
    case 'include':
      return { ...sharedBy(item), kind: 'include', menu: choice.menu } as Item
    case 'heading': {
      const named = Object.keys(label).length > 0 ? label : { [language]: 'Heading' }
      return { ...sharedBy(item), kind: 'heading', label: named, ...look, ...items } as Item
    }
  }
}
