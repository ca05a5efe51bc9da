// A site that is sent its menus: the site's side of the site protocol in Node.js, without dependencies.
//
//     SIGN_SHELF_SECRET=whsec_… MENUS=menus.json node site.mjs 8600
//
// Copy it into a site of your own: `handle` answers under /.well-known/sign-shelf and /sign-shelf/menus, `navigation` writes a menu as HTML.
// What it keeps stands in one file. See docs/site-protocol.md.
import { createHash, createHmac, timingSafeEqual } from 'node:crypto'
import { existsSync, readFileSync, renameSync, writeFileSync } from 'node:fs'
import { createServer } from 'node:http'

const NAME = process.env.SITE_NAME ?? 'A site in Node.js'
const LANGUAGE = 'en'
const TEMPLATE = {
  key: 'plain',
  title: 'Plain',
  devices: { phone: [0, 767], desktop: [768, null] },
  locations: [
    { key: 'header', title: 'Header', shape: 'bar', depth: 2, devices: ['phone', 'desktop'] },
    { key: 'footer', title: 'Footer', shape: 'line', depth: 1, devices: ['phone', 'desktop'] },
  ],
}
const PLACED = 'application/vnd.sign-shelf.placed-menu+json'
const FILE = process.env.MENUS ?? 'menus.json'
const KEY = Buffer.from(process.env.SIGN_SHELF_SECRET.replace(/^whsec_/, ''), 'base64')

/** What hangs in each slot, as it was sent, and the first answers by their keys. */
const kept = () => (existsSync(FILE) ? JSON.parse(readFileSync(FILE, 'utf8')) : { slots: {}, answers: {} })
function keep(all) {
  writeFileSync(`${FILE}.new`, JSON.stringify(all), { flush: true })
  renameSync(`${FILE}.new`, FILE)
}
const sha = (text) => createHash('sha256').update(text).digest('hex')
const etag = (text) => `"${sha(text).slice(0, 32)}"`

/** By the Standard Webhooks scheme: any of the signatures, over id, time and body, not older than five minutes. */
function signed(headers, body) {
  const at = Number(headers['webhook-timestamp'])
  if (!Number.isFinite(at) || Math.abs(Date.now() / 1000 - at) > 300) return false
  const over = `${headers['webhook-id']}.${headers['webhook-timestamp']}.${body}`
  const right = createHmac('sha256', KEY).update(over).digest()
  return String(headers['webhook-signature'] ?? '')
    .split(' ')
    .map((one) => Buffer.from(one.split(',')[1] ?? '', 'base64'))
    .some((one) => one.length === right.length && timingSafeEqual(one, right))
}

const depth = (items = []) => (items.length === 0 ? 0 : 1 + Math.max(...items.map((one) => depth(one.items))))

/** Status, what it says, entity tag. */
function write(location, device, headers, body) {
  if (!signed(headers, body)) return [401, 'The signature does not hold.']
  const place = TEMPLATE.locations.find((one) => one.key === location && one.devices.includes(device))
  if (!place) return [404, `This site has no ${location} for ${device}.`]
  const key = headers['idempotency-key']
  if (!key) return [400, 'The header Idempotency-Key is missing.']
  const there = kept()
  const first = there.answers[key]
  if (first)
    return first.mark === sha(body)
      ? [first.status, 'The menu hangs.', first.etag]
      : [422, 'This Idempotency-Key came with another body before.']
  let placed = null
  try {
    placed = JSON.parse(body)
  } catch {}
  const right =
    placed?.format === 'sign-shelf/placed-menu' &&
    placed.version === 1 &&
    placed.location === location &&
    placed.device === device &&
    typeof placed.menu === 'object' &&
    depth(placed.menu.items) <= place.depth
  if (!right) return [422, 'This is no placed menu that this slot can show.']
  const slot = `${location}/${device}`
  const has = there.slots[slot]
  const [ifMatch, ifNone] = [headers['if-match'], headers['if-none-match']]
  if (!ifMatch && ifNone !== '*') return [428, 'If-Match is missing, or If-None-Match: * for an empty slot.']
  if ((ifMatch && (has === undefined || etag(has) !== ifMatch)) || (ifNone === '*' && has !== undefined))
    return [412, 'What hangs here is not what the request expects.']
  const status = has === undefined ? 201 : 200
  there.slots[slot] = body
  there.answers[key] = { mark: sha(body), status, etag: etag(body) }
  keep(there)
  return [status, 'The menu hangs.', etag(body)]
}

const escaped = (text) =>
  String(text).replace(/[&<>"']/g, (one) => `&#${one.charCodeAt(0)};`)

/** What hangs there as HTML, as a visitor of whom nothing is known gets it: entries with a rule are left out. */
function navigation(location, device) {
  const text = kept().slots[`${location}/${device}`]
  if (text === undefined) return ''
  const { menu, pages = {} } = JSON.parse(text)
  const now = new Date().toISOString().slice(0, 16)
  const entry = (item) => {
    if (item.when || (item.from ?? '') > now || (item.until ?? '9') <= now) return ''
    const target = item.target ?? {}
    const page = pages[target.page]
    const labels = item.label ?? page?.title ?? {}
    const label = labels[LANGUAGE] ?? Object.values(labels)[0] ?? ''
    const href =
      target.url ?? (page ? page.path + (target.part ? `#${target.part}` : '') : target.email && `mailto:${target.email}`)
    const words = escaped(label)
    const shown = href ? `<a href="${escaped(href)}">${words}</a>` : words && `<span>${words}</span>`
    return shown ? `<li>${shown}${entries(item.items)}</li>` : ''
  }
  const entries = (items = []) => {
    const rows = items.map(entry).join('')
    return rows && `<ul>${rows}</ul>`
  }
  return `<nav aria-label="${escaped(menu.name)}">${entries(menu.items)}</nav>`
}

function handle(request, body, answer) {
  const path = new URL(request.url, 'http://site').pathname
  const problem = (status, detail) =>
    answer(status, JSON.stringify({ title: 'Refused', status, detail }), 'application/problem+json')
  const slot = path.match(/^\/sign-shelf\/menus\/([^/]+)\/([^/]+)$/)
  if (path === '/.well-known/sign-shelf')
    return answer(
      200,
      JSON.stringify({
        protocol: 'sign-shelf/site',
        version: 1,
        name: NAME,
        languages: [LANGUAGE],
        menus: '/sign-shelf/menus',
        signing: 'standard-webhooks',
        facts: [],
        shows: [],
        template: TEMPLATE,
      }),
    )
  if (slot && request.method === 'PUT') {
    const [status, says, tag] = write(slot[1], slot[2], request.headers, body)
    return tag ? answer(status, JSON.stringify({ says }), 'application/json', tag) : problem(status, says)
  }
  if (slot) {
    const text = kept().slots[`${slot[1]}/${slot[2]}`]
    if (text === undefined) return problem(404, `Nothing hangs in ${slot[1]} for ${slot[2]}.`)
    if (request.headers['if-none-match'] === etag(text)) return answer(304, '', PLACED, etag(text))
    return answer(200, text, PLACED, etag(text))
  }
  if (path === '/')
    return answer(
      200,
      `<!doctype html><html lang=${LANGUAGE}><title>${NAME}</title><header>${navigation('header', 'desktop')}</header>` +
        `<main><h1>${NAME}</h1></main><footer>${navigation('footer', 'desktop')}</footer></html>`,
      'text/html; charset=utf-8',
    )
  return problem(404, 'There is no such page.')
}

createServer((request, response) => {
  const pieces = []
  request.on('data', (piece) => pieces.push(piece))
  request.on('end', () =>
    handle(request, Buffer.concat(pieces).toString('utf8'), (status, text, kind = 'application/json', tag) => {
      response.writeHead(status, { 'content-type': kind, ...(tag ? { etag: tag } : {}) })
      response.end(text)
    }),
  )
}).listen(Number(process.argv[2] ?? 8600), '127.0.0.1')
