/**
 * What a line can lead to, and what of it answers to the words typed: pages, their parts, addresses, overlays, lists,
 * other menus. The signs are those of the outline notation; the server checks what is chosen.
 */
import type { Schemas } from '../api/client'
import type { Item, Target } from './tree'

export type ListQuery = Extract<Item, { kind: 'listing' }>['list']

export type Choice =
  | {
      kind: 'link'
      target: Target
      title?: Record<string, string>
      usual?: { new_tab?: boolean; rel?: string[] }
    }
  | { kind: 'opener'; overlay: string }
  | { kind: 'listing'; list: ListQuery }
  | { kind: 'include'; menu: string }
  | { kind: 'heading' }

export interface Offer {
  key: string
  choice: Choice
  says: string
  /** What stands behind in small: a type, a number of pages, a state. */
  note?: string
  page?: Schemas['PageOut']
  /** Whether what it names is not there, so that somebody looks twice. */
  doubtful?: boolean
}

export interface Known {
  vocabulary: Schemas['Vocabulary'] | undefined
  usual: Schemas['UsualOutside'] | null
  /** The menu that is edited: it may not include itself. */
  menu: string
}

const link = (key: string, target: Target, says: string, more: Partial<Offer> = {}): Offer => ({
  key,
  choice: { kind: 'link', target },
  says,
  ...more,
})

/** The words without the part of a page that is asked for, such as "fares" of "timetables#fares". */
export const pageWords = (typed: string): string => typed.trim().replace(/^@/, '').split('#')[0]?.trim() ?? ''

/** Signs that nobody sees and no document takes: control characters, and those that turn the reading direction. */
const UNSEEN = /[\p{Cc}\p{Cs}\p{Zl}\p{Zp}\u202a-\u202e\u2066-\u2069]/gu

/** The address with what it carries percent-encoded; null where it is no http address, has no host, or has a name or
 * password before it. */
export function addressed(words: string): string | null {
  const address = words.replace(/[<>"\\^`|\s]/g, encodeURIComponent)
  const host = /^(?:[a-z]+:)?\/\/([^/?#]*)/i.exec(address)?.[1]
  const scheme = /^([a-z][a-z0-9+.-]*):/i.exec(address)?.[1]
  const other = scheme !== undefined && !/^https?$/i.test(scheme)
  return other || host === '' || host?.includes('@') || address.length > 2_000 ? null : address
}

export function offersFor(typed: string, pages: readonly Schemas['PageOut'][], known: Known): Offer[] {
  const seen = typed.replace(UNSEEN, '').trim()
  const words = /^[\s\p{Cf}]*$/u.test(seen) ? '' : seen
  const vocabulary = known.vocabulary
  if (words.startsWith('!')) return overlays(words.slice(1).trim(), vocabulary)
  if (words.startsWith('*')) return listings(words.slice(1).trim(), vocabulary)
  if (/^\+(?!\d)/.test(words)) return includes(words.slice(1).trim(), known)
  if (words.startsWith('?')) return [pending(words.slice(1).trim())]
  const exact: Offer[] = []
  const found: Offer[] = []
  const wantedPart = words.includes('#') ? words.split('#').slice(1).join('#').trim().toLowerCase() : null
  for (const page of pages) {
    if (wantedPart === null) (page.path === words ? exact : found).push(pageOffer(page))
    else found.push(...partOffers(page, wantedPart))
  }
  return [...exact, ...byForm(words, known), ...found, pending(words)]
}

function pageOffer(page: Schemas['PageOut']): Offer {
  const parts = page.parts.length
  return {
    key: page.ref,
    choice: { kind: 'link', target: { page: page.ref }, title: page.title },
    says: Object.values(page.title)[0] ?? page.path,
    note: parts > 0 ? `${page.type} · ${parts === 1 ? '1 part' : `${parts} parts`}, type #` : page.type,
    page,
  }
}

const partOffers = (page: Schemas['PageOut'], wanted: string): Offer[] =>
  page.parts
    .filter((part) => part.toLowerCase().includes(wanted))
    .map((part) => ({
      key: `${page.ref}#${part}`,
      choice: { kind: 'link', target: { page: page.ref, part } },
      says: `${Object.values(page.title)[0] ?? page.path} › #${part}`,
      note: 'part of the page',
      page,
    }))

/** What the words are by their form: mail, phone, an address, a part of the same page, a visitor's own page. */
function byForm(words: string, known: Known): Offer[] {
  if (/^[^\s@<>"{}]{1,64}@[^\s@<>"{}]+\.[^\s@<>"{}]+$/.test(words))
    return [link(words, { email: words }, `Write to ${words}`)]
  if (/^\+?[0-9][0-9 ().-]{4,39}$/.test(words)) return [link(words, { phone: words }, `Call ${words}`)]
  if (/^#[^\s#{}"<>]+$/.test(words)) {
    return [link(words, { part: words.slice(1) }, `The part ${words} of the same page`)]
  }
  const full = /^[\w-]+(\.[\w-]+)+(\/\S*)?$/.test(words) ? `https://${words}` : words
  const address = addressed(full)
  if (address === null) return []
  if (words.includes('{')) {
    const pattern = afterHost(address)
    return pattern === null ? [] : patterns(pattern, known)
  }
  if (/^https?:\/\/\S+$/i.test(full)) return [outside(address, known)]
  return /^\/\S*$/.test(words) ? [link(address, { url: address }, `The address ${address}`)] : []
}

function outside(url: string, { usual }: Known): Offer {
  const host = URL.canParse(url) ? new URL(url).host.toLowerCase() : ''
  const away = usual && host && !usual.own_hosts.includes(host)
  return {
    key: url,
    choice: {
      kind: 'link',
      target: { url },
      ...(away ? { usual: { new_tab: usual.new_tab, rel: usual.rel } } : {}),
    },
    says: `The address ${url}`,
    note: away ? `another site${usual.new_tab ? ', opens in a new tab' : ''}` : undefined,
  }
}

/** The pattern with its facts in its path: within the site it begins with a slash; null where one stands in the host. */
function afterHost(address: string): string | null {
  const before = address.slice(0, address.indexOf('{'))
  const path = before.replace(/^(?:https?:)?\/\/[^/?#{]*/i, '')
  if (/^[/?#]/.test(path)) return address
  if (path !== before) return null
  return /[/?#]/.test(path) ? address : `/${address}`
}

/** A visitor's own page: the pattern with each of the site's facts where a brace is open, or as it stands. */
function patterns(words: string, { vocabulary }: Known): Offer[] {
  const facts = vocabulary?.facts ?? []
  const open = /\{([^{}]*)$/.exec(words)
  if (open) {
    const begun = open[1] ?? ''
    return facts
      .filter((fact) => fact.name.startsWith(begun))
      .map((fact) => {
        const url = `${words.slice(0, open.index)}{${fact.name}}`
        return link(url, { url }, `The visitor’s own page ${url}`, { note: `fact, ${fact.type}` })
      })
  }
  const named = [...words.matchAll(/\{([^{}]*)\}/g)].map((one) => one[1] ?? '')
  const unknown = named.filter((name) => !facts.some((fact) => fact.name === name))
  return [
    link(words, { url: words }, `The visitor’s own page ${words}`, {
      note: unknown.length > 0 ? `${unknown.join(', ')} is no fact of this site` : 'with the visitor’s facts',
      doubtful: unknown.length > 0,
    }),
  ]
}

const pending = (words: string): Offer =>
  link(
    'pending',
    { pending: words ? { note: words } : {} },
    words ? `Nothing yet, with the note “${words}”` : 'Nothing yet',
  )

function overlays(words: string, vocabulary: Schemas['Vocabulary'] | undefined): Offer[] {
  const found = (vocabulary?.overlays ?? []).filter((one) => one.key.includes(words.toLowerCase()))
  const offers = found.map(
    (one): Offer => ({
      key: `!${one.key}`,
      choice: { kind: 'opener', overlay: one.key },
      says: `Opens ${one.key}`,
      note: `overlay on ${one.pages === 1 ? '1 page' : `${one.pages} pages`}`,
    }),
  )
  if (words && !found.some((one) => one.key === words) && /^[^\s"{}<>;,\\]{1,200}$/.test(words)) {
    offers.push({
      key: `!${words}`,
      choice: { kind: 'opener', overlay: words },
      says: `Opens ${words}`,
      note: 'no page has this overlay',
      doubtful: true,
    })
  }
  return offers
}

function listings(words: string, vocabulary: Schemas['Vocabulary'] | undefined): Offer[] {
  const rest = /\brest\b/.test(words)
  const wanted = words
    .replace(/\brest\b/, '')
    .trim()
    .toLowerCase()
  const types = (vocabulary?.types ?? []).filter((one) => one.type.toLowerCase().includes(wanted))
  const offer = (type: string, pages: number, whole: boolean): Offer => ({
    key: `*${type}${whole ? '' : ' rest'}`,
    choice: { kind: 'listing', list: { type, order: 'title', ...(whole ? {} : { rest: true }) } },
    says: whole ? `Every ${type}` : `The rest of ${type}: what is not in this menu by hand`,
    // How many the rest are follows from the menu: the chooser asks.
    note: whole ? `${pages} now` : undefined,
  })
  return types.flatMap((one) =>
    (rest ? [] : [offer(one.type, one.pages, true)]).concat(offer(one.type, one.pages, false)),
  )
}

const includes = (words: string, { vocabulary, menu }: Known): Offer[] =>
  (vocabulary?.menus ?? [])
    .filter((key) => key !== menu && key.includes(words.toLowerCase()))
    .map((key) => ({
      key: `+${key}`,
      choice: { kind: 'include', menu: key },
      says: `The lines of the menu ${key}`,
      note: 'included here',
    }))
