/** How an item reads on its line: its label, its target, and what differs from the default. */
import type { Item, Target } from './tree'

export function labelOf(item: Item, languages: readonly string[]): string {
  if (!('label' in item) || !item.label) return ''
  for (const language of languages) {
    const words = item.label[language]
    if (words) return words
  }
  return Object.values(item.label)[0] ?? ''
}

export function targetWords(target: Target): string {
  if ('page' in target) return `@${target.page}${target.part ? `#${target.part}` : ''}`
  if ('url' in target) return target.url
  if ('part' in target && target.part) return `#${target.part}`
  if ('email' in target) return target.email
  if ('phone' in target) return target.phone
  if ('pending' in target) {
    const { note, owner, due } = target.pending
    const told = [note, owner, due && day(due)].filter(Boolean).join(', ')
    return told ? `to come: ${told}` : 'nothing yet'
  }
  return ''
}

export function leadsTo(item: Item): string {
  switch (item.kind) {
    case 'link':
      return targetWords(item.target)
    case 'opener':
      return `opens ${item.target.overlay}`
    case 'listing': {
      const { type, under, order, limit, rest } = item.list
      const parts = [
        rest ? `the rest of ${type ?? 'page'}` : `every ${type ?? 'page'}`,
        under && `under @${under}`,
        order && order !== 'inventory' && `by ${order}`,
      ]
      return [...parts, limit && `first ${limit}`].filter(Boolean).join(', ')
    }
    case 'include':
      return `+ ${item.menu}`
    case 'heading':
      return 'no target'
    case 'divider':
      return ''
  }
}

/** Only what differs from the default. */
export function differences(item: Item): string[] {
  const said: string[] = []
  if (item.kind === 'heading' || item.kind === 'listing')
    said.push(item.kind === 'heading' ? 'heading' : 'fills itself')
  if (item.from || item.until) {
    said.push(
      [item.from && `from ${moment(item.from)}`, item.until && `until ${moment(item.until)}`]
        .filter(Boolean)
        .join(' '),
    )
  }
  if (item.when) said.push(`when ${item.when}`)
  if (item.devices) said.push(`on ${item.devices.join(', ')}`)
  if ('look' in item && item.look) {
    const { emphasis, size, icon, badge } = item.look
    if (emphasis === 'button') said.push(size ? `button ${size}` : 'button')
    if (emphasis === 'strong') said.push('strong')
    if (icon) said.push(item.look.icon_only ? `icon ${icon} alone` : `icon ${icon}`)
    if (item.look.picture) said.push('picture')
    if (item.look.hooks?.length) said.push(`hooks ${item.look.hooks.join(', ')}`)
    if (badge)
      said.push(`badge ${Object.values(badge.label)[0]}${badge.until ? `, ends ${day(badge.until)}` : ''}`)
  }
  if (item.kind === 'link' && item.new_tab) said.push('new tab')
  if (item.kind === 'link' && item.rel?.length) said.push(`rel ${item.rel.join(', ')}`)
  return said
}

const MONTHS = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec']

export function day(iso: string): string {
  const [year, month, date] = iso.slice(0, 10).split('-').map(Number)
  const name = MONTHS[(month ?? 1) - 1]
  return year === new Date().getFullYear() ? `${date} ${name}` : `${date} ${name} ${year}`
}

export function moment(wall: string): string {
  const time = wall.slice(11, 16)
  return time && time !== '00:00' ? `${day(wall)} ${time}` : day(wall)
}
