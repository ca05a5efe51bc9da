import type { Schemas } from '../../api/client'
import type { MenuDocument } from '../../outline/tree'

/** What the server read of a site, before anything of it is kept. */
export interface ReadSite {
  url: string
  key: string
  name: string
  zone: string
  languages: string[]
  pages: { ref: string; path: string; title: Record<string, string>; type: string }[]
  menus: { key: string; where: string; title: string; document: MenuDocument }[]
  template: {
    title: string | null
    locations: {
      key: string
      title: string
      shape: Schemas['LocationOut']['shape']
      depth?: number
      devices?: string[]
    }[]
  }
  placements: { location: string; device: string; menu: string }[]
  connection: 'endpoint' | 'observe'
  notes: string[]
}
