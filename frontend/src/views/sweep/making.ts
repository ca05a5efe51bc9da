import type { Schemas } from '../../api/client'

export type Making = Schemas['PreviewBody']['making']
export type Act = Making['do']

export const ACTS: Record<Act, string> = {
  retarget: 'lead elsewhere',
  relabel: 'label',
  replace: 'replace text',
  look: 'look',
  rule: 'who sees',
  window: 'when',
  remove: 'take away',
}

/** What is typed, for every kind of edit: going from one to another loses nothing. */
export interface Typed {
  to: string
  language: string
  label: string
  find: string
  by: string
  pattern: boolean
  within: 'label' | 'address'
  emphasis: '' | 'plain' | 'strong' | 'button'
  icon: string
  rule: string
  from: string
  until: string
}

export const NOTHING_TYPED: Typed = {
  to: '',
  language: 'en',
  label: '',
  find: '',
  by: '',
  pattern: false,
  within: 'label',
  emphasis: '',
  icon: '',
  rule: '',
  from: '',
  until: '',
}

/** The edit, as soon as enough of it is typed. */
export function making(act: Act, typed: Typed): Making | null {
  switch (act) {
    case 'retarget':
      return typed.to.trim() ? { do: act, to: typed.to.trim() } : null
    case 'relabel':
      return typed.language ? { do: act, language: typed.language, label: typed.label.trim() || null } : null
    case 'replace':
      return typed.find
        ? { do: act, find: typed.find, by: typed.by, pattern: typed.pattern, within: typed.within }
        : null
    case 'look':
      return typed.emphasis || typed.icon
        ? { do: act, emphasis: typed.emphasis || null, icon: typed.icon === '-' ? '' : typed.icon || null }
        : null
    case 'rule':
      return { do: act, when: typed.rule.trim() || null }
    case 'window':
      return { do: act, from: typed.from || null, until: typed.until || null }
    case 'remove':
      return { do: act }
  }
}

/** What the change is called, where nobody calls it otherwise. */
export function titled(making: Making, query: string): string {
  const of = ` (${query})`
  switch (making.do) {
    case 'retarget':
      return `Lead to ${making.to}${of}`
    case 'relabel':
      return making.label ? `Call it ${making.label}${of}` : `Take labels away${of}`
    case 'replace':
      return `“${making.find}” becomes “${making.by}”${of}`
    case 'look':
      return `Dress${of}`
    case 'rule':
      return making.when ? `Only when ${making.when}${of}` : `For everybody${of}`
    case 'window':
      return `When they show${of}`
    case 'remove':
      return `Take away${of}`
  }
}
