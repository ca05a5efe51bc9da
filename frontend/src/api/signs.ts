import type { Lens } from '../lens/lens'
import { point } from '../lens/lens'
import { answered, client, type Schemas } from './client'

type Signs = Schemas['Sign'][]

interface Asked {
  lens: Lens
  site: string
  signal: AbortSignal
  got: (signs: Signs) => void
  failed: (why: unknown) => void
}

/** Sites that the server draws at once. */
const AT_ONCE = 30
/** Milliseconds in which boards that come into sight are asked for together; those gone again by then never are. */
const TOGETHER = 20

let waiting: Asked[] = []

/** The signs of one site's board: boards that come into sight at the same time are one request. */
export function signsOf(lens: Lens, site: string, signal: AbortSignal): Promise<Signs> {
  return new Promise((got, failed) => {
    if (waiting.length === 0) setTimeout(ask, TOGETHER)
    waiting.push({ lens, site, signal, got, failed })
  })
}

function ask(): void {
  const asked = waiting.filter((one) => !one.signal.aborted)
  waiting = []
  const alike = new Map<string, Asked[]>()
  for (const one of asked) {
    const seen = JSON.stringify(one.lens)
    alike.set(seen, [...(alike.get(seen) ?? []), one])
  }
  for (const through of alike.values())
    for (let begin = 0; begin < through.length; begin += AT_ONCE)
      void askFor(through.slice(begin, begin + AT_ONCE))
}

async function askFor(asked: Asked[]): Promise<void> {
  const [first] = asked
  if (!first) return
  const site = asked.map((one) => one.site)
  try {
    const boards = await answered(
      client.GET('/api/shelf/signs', { params: { query: { ...point(first.lens), site } } }),
    )
    const signs = new Map(boards.map((board) => [board.key, board.signs]))
    for (const one of asked) one.got(signs.get(one.site) ?? [])
  } catch (why) {
    for (const one of asked) one.failed(why)
  }
}
