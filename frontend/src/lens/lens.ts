/** The point of view through which every view is shown. It lives in the address, so that a view can be sent on. */
export const DEVICES = ['desktop', 'tablet', 'phone'] as const
export type Device = (typeof DEVICES)[number]

export interface Lens {
  device: Device
  /** BCP 47; absent: each site's own first language. */
  language?: string
  /** One of a site's audiences; absent: a visitor of whom nothing is known. */
  audience?: string
  /** Facts by hand, over those of the audience. */
  facts?: Record<string, unknown>
  /** A reading of each site's own clock; absent: now. */
  at?: string
  /** The page that the visitor is on, by its reference. */
  page?: string
  /** The change in which one looks, by its id; `live`: as it is live; absent: the one in which one works. */
  in?: string
}

export function readLens(search: Record<string, unknown>): Lens {
  const device = DEVICES.find((known) => known === search.device) ?? 'desktop'
  const language = String(search.language ?? '')
  const page = String(search.page ?? '')
  const audience = String(search.audience ?? '')
  const at = String(search.at ?? '')
  const inside = String(search.in ?? '')
  const facts = search.facts
  return {
    device,
    ...(/^[a-z]{2,3}(-[A-Za-z0-9]{1,8})*$/.test(language) ? { language } : {}),
    ...(audience !== '' && audience.length <= 500 ? { audience } : {}),
    ...(facts && typeof facts === 'object' && !Array.isArray(facts) && Object.keys(facts).length > 0
      ? { facts: facts as Record<string, unknown> }
      : {}),
    ...(/^\d{4}-\d\d-\d\dT\d\d:\d\d([+-]\d\d:\d\d)?$/.test(at) ? { at } : {}),
    ...(/^[^\s#,@{}"<>]{1,200}$/.test(page) ? { page } : {}),
    ...(/^(live|[0-9a-f-]{36})$/.test(inside) ? { in: inside } : {}),
  }
}

/** The lens as the server is asked with it. */
export function point({ facts, ...lens }: Lens) {
  return { ...lens, ...(facts ? { facts: JSON.stringify(facts) } : {}) }
}

/** The languages of a site with the lens's first, where the site has it. */
export function spoken(languages: readonly string[], lens: Lens): string[] {
  const wanted = languages.filter((one) => one === lens.language)
  return [...wanted, ...languages.filter((one) => one !== lens.language)]
}

const NAMES = new Intl.DisplayNames('en', { type: 'language' })

export function languageName(tag: string): string {
  try {
    return NAMES.of(tag) ?? tag
  } catch {
    return tag
  }
}
