/** Cut and copied lines: as outline text for every program, and as they are for menus of this one. */
import { answered, client, type Schemas } from '../api/client'
import type { Item, MenuDocument } from './tree'

interface Copied {
  site: string
  menu: string
  text: string
  items: Item[]
}

export type Incoming = Schemas['IncomingMenuOut']

const KEY = 'sign-shelf copied'
export const documentOf = (items: Item[]): MenuDocument => ({
  format: 'sign-shelf/menu',
  version: 1,
  name: 'Menu',
  items,
})

/** Puts the lines on the clipboard. The text is the server's: it alone knows the notation. */
export async function copyLines(site: string, menu: string, language: string, items: Item[]): Promise<void> {
  const text = client
    .POST('/api/outline', {
      params: { query: { language } },
      body: documentOf(items) as never,
      parseAs: 'text',
    })
    .then(({ data, response }) => {
      if (!response.ok || typeof data !== 'string') throw new Error(`The server answered ${response.status}.`)
      localStorage.setItem(KEY, JSON.stringify({ site, menu, text: data, items } satisfies Copied))
      return data
    })
  // The clipboard may be written only while the key is pressed: it takes a promise for what the server will say.
  const written = navigator.clipboard?.write
    ? navigator.clipboard.write([
        new ClipboardItem({ 'text/plain': text.then((words) => new Blob([words], { type: 'text/plain' })) }),
      ])
    : Promise.resolve()
  await text
  // Where the browser does not give the clipboard away, lines still travel between menus of this one.
  await written.catch(() => undefined)
}

const tidy = (text: string): string => text.replaceAll('\r\n', '\n').trim()

/** What was cut or copied here last, if that is what the clipboard holds. */
function copiedAs(text: string): Copied | null {
  try {
    const copied: Copied | null = JSON.parse(localStorage.getItem(KEY) ?? 'null')
    return copied && tidy(copied.text) === tidy(text) ? copied : null
  } catch {
    return null
  }
}

/** Whether a paste is lines, and not just words for the label that is being typed. */
export function isLines(data: DataTransfer): boolean {
  const text = data.getData('text/plain')
  return (
    /\n\s*\S/.test(text.trim()) ||
    copiedAs(text) !== null ||
    /<(li|nav|ul|ol)\b/i.test(data.getData('text/html')) ||
    isSource(text)
  )
}

/** Whether the words are a list's source, if on one line only. */
const isSource = (text: string): boolean => /^\s*<(?:nav|ul|ol|li|menu|dl)\b[^>]*>.*<\/\w+>\s*$/is.test(text)

/** What a paste holds; `text` is what it was read from, `copied` whether it was cut or copied here. */
export async function pastedLines(
  site: string,
  menu: string,
  data: DataTransfer,
): Promise<{ text: string; found: Incoming[]; copied: boolean }> {
  const text = data.getData('text/plain')
  const html = data.getData('text/html')
  const copied = copiedAs(text)
  if (copied) {
    const found = await answered(
      client.POST('/api/sites/{site}/incoming/copy', {
        params: { path: { site } },
        body: { site: copied.site, menu: copied.menu, document: documentOf(copied.items) },
      }),
    )
    return { text, found, copied: true }
  }
  const source = /<(li|a|nav)\b/i.test(html) ? html : text
  return { text: source, found: await readData(site, source, { into: menu }), copied: false }
}

/** What a paste or a file would bring into the site, as the server reads it. */
export function readData(
  site: string,
  data: string | ArrayBuffer,
  query: {
    format?: 'json' | 'outline' | 'html' | 'opml' | 'csv'
    name?: string
    into?: string
    columns?: string[]
    headed?: boolean
  } = {},
): Promise<Incoming[]> {
  return answered(
    client.POST('/api/sites/{site}/incoming/data', {
      params: { path: { site }, query },
      body: data as never,
      bodySerializer: (body) => body as never,
      headers: { 'content-type': 'application/octet-stream' },
    }),
  )
}
