/** Cut and copied lines: as outline text for every program, and as they are for menus of this one. */
import { answered, client, type Schemas } from '../api/client'
import { type Item, type MenuDocument, withNewIds } from './tree'

interface Copied {
  site: string
  menu: string
  text: string
  items: Item[]
}

export type Incoming = Schemas['IncomingMenuOut']

const KEY = 'sign-shelf copied'
const documentOf = (items: Item[]): MenuDocument => ({
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
    /<(li|nav|ul|ol)\b/i.test(data.getData('text/html'))
  )
}

/** The items that a paste holds, under ids of their own, with what was not understood. */
export async function pastedLines(
  site: string,
  data: DataTransfer,
): Promise<{ items: Item[]; notes: string[] }> {
  const text = data.getData('text/plain')
  const html = data.getData('text/html')
  const copied = copiedAs(text)
  const found = copied
    ? await answered(
        client.POST('/api/sites/{site}/incoming/copy', {
          params: { path: { site } },
          body: { site: copied.site, menu: copied.menu, document: documentOf(copied.items) },
        }),
      )
    : await readData(site, /<(li|a|nav)\b/i.test(html) ? html : text)
  return {
    items: found.flatMap((menu) => withNewIds(menu.document.items ?? [])),
    notes: found.flatMap((menu) => menu.notes.map((note) => `${note.where}: ${note.says}`)),
  }
}

/** What a paste or a file would bring into the site, as the server reads it. */
export function readData(
  site: string,
  data: string | ArrayBuffer,
  query: { format?: 'json' | 'outline' | 'html' | 'opml' | 'csv'; name?: string; into?: string } = {},
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
