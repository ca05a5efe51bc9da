import type { Schemas } from '../../api/client'
import type { Device } from '../../lens/lens'

/** A template document, as docs/site-document.md has it; keys that hold their default are left out. */
export interface Template {
  key: string
  title?: string
  version?: number
  devices: Partial<Record<Device, [number, number | null]>>
  locations: Location[]
}

export interface Fold {
  into: string
  on?: Device[]
  below?: number | null
  where?: 'before' | 'after'
  order?: number
  heading?: string | null
}

export interface Location {
  key: string
  title: string
  shape: Schemas['LocationOut']['shape']
  depth?: number
  kinds?: string[]
  devices?: Device[]
  stand_in?: string | null
  readable?: boolean
  fold?: Fold[]
  fixed?: {
    scrolled?: { height?: number | null; text?: string | null; ground?: string | null }
    covers?: string[]
  } | null
  stands?: { region: string; row?: number; height?: number; width?: number | null } | null
  of?: string | null
  start?: number
  levels?: number | null
  pages?: string[]
  heading?: string | true | null
  /** Keys that differ from the plain look. */
  look?: Partial<Schemas['PlaceLook']>
}

export const EMPTY_LOCATION: Location = { key: 'place', title: 'New place', shape: 'bar', depth: 2 }
export const SHAPES = ['bar', 'strip', 'drawer', 'side', 'section', 'columns', 'line', 'corner'] as const
export const KINDS = ['link', 'heading', 'divider', 'opener', 'listing', 'include'] as const
export const REGIONS = [
  ['head', 'at the head'],
  ['start', 'before the text'],
  ['end', 'after the text'],
  ['foot', 'at the foot'],
  ['over', 'over the page'],
] as const
