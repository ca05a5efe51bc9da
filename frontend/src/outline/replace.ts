/** Words found in labels and addresses of a menu, and exchanged for others. */
import { addressed } from './choices'
import { flatten, type Item, type Tree, update } from './tree'

export interface Sought {
  find: string
  by: string
  labels: boolean
  addresses: boolean
  /** Whether capitals count. */
  exact: boolean
}

export interface Hit {
  id: string
  /** The line's number in the menu. */
  number: string
  /** `label.en` for the label in a language, `address` for what it leads to. */
  field: string
  before: string
  after: string
  /** Why it cannot be so, where it cannot. */
  refused: string | null
}

const escaped = (text: string): string => text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&')

/** The pattern of what is sought; null while nothing is. */
export function patternOf({ find, exact }: Pick<Sought, 'find' | 'exact'>): RegExp | null {
  return find === '' ? null : new RegExp(escaped(find), exact ? 'gu' : 'giu')
}

/** Every text that holds what is sought, with what would stand there, in document order. */
export function hitsIn(tree: Tree, sought: Sought): Hit[] {
  const pattern = patternOf(sought)
  if (!pattern) return []
  return flatten(tree, new Set()).flatMap((row) =>
    textsOf(row.item)
      .filter(([field]) => (field === 'address' ? sought.addresses : sought.labels))
      .flatMap(([field, before]) => {
        const after = before.replace(pattern, () => sought.by)
        if (after === before) return []
        return [
          {
            id: row.item.id,
            number: row.number,
            field,
            before,
            after,
            refused: refusal(row.item, field, after),
          },
        ]
      }),
  )
}

/** The tree with these exchanged; those that are refused, or hold something else by now, stay as they are. */
export function replaced(tree: Tree, hits: readonly Hit[]): Tree {
  return hits.reduce((now, hit) => {
    if (hit.refused) return now
    return update(now, hit.id, (item) =>
      textsOf(item).some(([field, text]) => field === hit.field && text === hit.before)
        ? withText(item, hit.field, hit.after)
        : item,
    )
  }, tree)
}

/** As a menu document takes them. */
const MAIL = /^[^\s@<>"{}]{1,64}@[^\s@<>"{}]{1,250}$/
const PHONE = /^\+?[0-9][0-9 ().-]{1,39}$/
const ADDRESSES = ['url', 'email', 'phone'] as const

function textsOf(item: Item): [field: string, text: string][] {
  const labels = 'label' in item ? Object.entries(item.label ?? {}) : []
  const texts = labels.map(([language, text]): [string, string] => [`label.${language}`, text])
  if (item.kind !== 'link') return texts
  const target: Record<string, unknown> = item.target
  const address = ADDRESSES.map((name) => target[name]).find((one) => typeof one === 'string')
  return address ? [...texts, ['address', address as string]] : texts
}

function withText(item: Item, field: string, text: string): Item {
  if (field.startsWith('label.') && 'label' in item)
    return { ...item, label: { ...item.label, [field.slice(6)]: text } } as Item
  if (item.kind !== 'link') return item
  const name = ADDRESSES.find((one) => one in item.target)
  return name ? ({ ...item, target: { [name]: text } } as Item) : item
}

function refusal(item: Item, field: string, after: string): string | null {
  if (after.trim() === '') return 'nothing would be left'
  if (after.length > (field === 'address' ? 2_000 : 500)) return 'it would be too long'
  if (field !== 'address' || item.kind !== 'link') return null
  if ('email' in item.target) return MAIL.test(after) ? null : 'that is no mail address'
  if ('phone' in item.target) return PHONE.test(after) ? null : 'that is no phone number'
  if (!('url' in item.target)) return null
  return addressed(after) === after ? null : 'that is no address'
}
