// A site that asks for its menus, in Node.js without dependencies: it keeps what it was given, and asks again once it is told.
//
//     SIGN_SHELF=https://shelf.example/live/brackwater SIGN_SHELF_KEY=… SIGN_SHELF_SECRET=whsec_… node asks.mjs 8600
//
// The key is the site's delivery key, the secret its signing key. Copy it into a site of your own: `navigation` gives a menu as HTML, `handle`
// answers under /.well-known/sign-shelf and takes pings. See docs/delivery.md.
import { createHmac, timingSafeEqual } from 'node:crypto'
import { createServer } from 'node:http'

const SHELF = process.env.SIGN_SHELF.replace(/\/$/, '')
const NAME = process.env.SITE_NAME ?? 'A site in Node.js that asks'
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
const SECRET = Buffer.from(process.env.SIGN_SHELF_SECRET.replace(/^whsec_/, ''), 'base64')
/** What was given, by what was asked for: until when it holds, its entity tag, the HTML. */
const kept = new Map()

/** The menu as HTML. What holds for one visitor alone is not kept; where the shelf is away, what it gave last counts. */
async function navigation(location, device, page, facts) {
  const asked = new URLSearchParams({ device, language: LANGUAGE, page, ...(facts ? { facts } : {}) })
  const address = `${SHELF}/${location}?${asked}`
  const has = kept.get(address) ?? { until: 0, tag: '', text: '' }
  if (performance.now() < has.until) return has.text
  try {
    const answer = await fetch(address, {
      headers: {
        authorization: `Bearer ${process.env.SIGN_SHELF_KEY}`,
        accept: 'text/html',
        ...(has.tag ? { 'if-none-match': has.tag } : {}),
      },
      signal: AbortSignal.timeout(5000),
    })
    if (!answer.ok && answer.status !== 304) return has.text
    const text = answer.status === 304 ? has.text : await answer.text()
    const seconds = Number(/max-age=(\d+)/.exec(answer.headers.get('cache-control') ?? '')?.[1] ?? 0)
    if (!facts)
      kept.set(address, { until: performance.now() + seconds * 1000, tag: answer.headers.get('etag') ?? has.tag, text })
    return text
  } catch {
    return has.text
  }
}

/** Whether somebody with the signing key says so (Standard Webhooks), not longer than five minutes ago. */
function told(headers, body) {
  const at = Number(headers['webhook-timestamp'])
  if (!Number.isFinite(at) || Math.abs(Date.now() / 1000 - at) > 300) return false
  const right = createHmac('sha256', SECRET).update(`${headers['webhook-id']}.${headers['webhook-timestamp']}.${body}`).digest()
  return String(headers['webhook-signature'] ?? '')
    .split(' ')
    .map((one) => Buffer.from(one.split(',')[1] ?? '', 'base64'))
    .some((one) => one.length === right.length && timingSafeEqual(one, right))
}

async function handle(request, body, answer) {
  const path = new URL(request.url, 'http://site').pathname
  if (path === '/.well-known/sign-shelf')
    return answer(
      200,
      JSON.stringify({
        protocol: 'sign-shelf/site',
        version: 1,
        name: NAME,
        languages: [LANGUAGE],
        menus: '/sign-shelf/menus',
        asks: true,
        ping: '/menus/changed',
        vouched: true,
        facts: [],
        shows: [],
        template: TEMPLATE,
      }),
    )
  if (path.startsWith('/sign-shelf/menus/'))
    return request.method === 'GET' ? answer(404, '{}') : answer(405, '{"detail": "This site asks for its menus."}')
  if (path === '/menus/changed' && request.method === 'POST') {
    if (!told(request.headers, body)) return answer(401, '{}')
    for (const [address, has] of kept) kept.set(address, { ...has, until: 0 })
    return answer(204, '')
  }
  if (path === '/') {
    const device = request.headers['sec-ch-ua-mobile'] === '?1' ? 'phone' : 'desktop'
    const facts = request.headers['sign-shelf-facts']
    const [header, footer] = await Promise.all(
      ['header', 'footer'].map((location) => navigation(location, device, path, facts)),
    )
    return answer(
      200,
      `<!doctype html><html lang=${LANGUAGE}><title>${NAME}</title><header>${header}</header>` +
        `<main><h1>${NAME}</h1></main><footer>${footer}</footer></html>`,
      'text/html; charset=utf-8',
    )
  }
  return answer(404, '{}')
}

createServer((request, response) => {
  const pieces = []
  request.on('data', (piece) => pieces.push(piece))
  request.on('end', () =>
    handle(request, Buffer.concat(pieces).toString('utf8'), (status, text, kind = 'application/json') => {
      response.writeHead(status, { 'content-type': kind, vary: 'Sec-CH-UA-Mobile' })
      response.end(text)
    }),
  )
}).listen(Number(process.argv[2] ?? 8600), '127.0.0.1')
