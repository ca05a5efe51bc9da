/**
 * Autosave without React: one save at a time, each on top of the last; what others did meanwhile is merged, and only
 * a conflict that a person must settle stops it. What is not saved yet is kept in the browser's own storage.
 */
import { flushSync } from 'react-dom'
import { answered, type Conflict, client, Refused, type Schemas } from '../api/client'
import { finishAll } from '../parts/unfinished'
import { alone, holding } from './atWork'
import { brought, editsBetween } from './brought'
import type { MenuDocument } from './tree'
import { allUnsaved, dropUnsaved, keepUnsaved, type Unsaved } from './unsaved'

export type SaveState =
  | { status: 'saved'; at: string }
  | { status: 'waiting' }
  | { status: 'saving' }
  | { status: 'conflict'; base: string; conflicts: Conflict[]; by: string[]; did: string[] }
  | { status: 'failed'; error: unknown; again: boolean }

/** The conflicts of a save with what somebody else saved meanwhile. */
export type Met = Extract<SaveState, { status: 'conflict' }>

interface Listeners {
  state: (state: SaveState) => void
  /** The newest saved hash, what differs from live, and whether it was saved in another change than before. */
  saved: (hash: string, changes: Schemas['Edits'], opened: boolean) => void
  /** Somebody else's edits came in, which lead from what was sent to this document. */
  adopt: (document: MenuDocument, sent: MenuDocument) => void
  merged: (by: string[], did: string[]) => void
  /** Whether the browser keeps what is not saved yet. */
  kept: (kept: boolean) => void
}

const PAUSE_MS = 450
const KEEP_MS = 120
/** Between one try and the next: twice as long each time, up to the last. */
const AGAIN_MS = 2_000
const LONGEST_AGAIN_MS = 60_000

type Saved = Pick<MenuDocument, 'name' | 'items'>

export class Saver {
  /** What waits to be saved. Writing a long menu out takes time: it is asked for when it is needed, and once. */
  private latest: (() => MenuDocument) | null = null
  private timer: number | undefined
  private keeping: number | undefined
  private running: Promise<void> | null = null
  private stopped = false
  private told: SaveState['status'] = 'saved'
  private leaving = false
  private tries = 0
  private letGo: (() => void) | null = null
  private wrote = false

  /** The change that the menu was read or saved in. What is saved on leaving goes there, wherever one works by then. */
  home: string | undefined

  constructor(
    private readonly person: string,
    private readonly site: { key: string; name: string },
    private readonly menu: string,
    private hash: string,
    /** The menu as it is saved. */
    private saved: Saved,
    private readonly listeners: Listeners,
  ) {}

  changed(document: () => MenuDocument): void {
    onBench.add(this)
    this.letGo ??= holding(this.person, this.site.key, this.menu)
    let written: MenuDocument | null = null
    this.latest = () => {
      written ??= document()
      return written
    }
    window.clearTimeout(this.keeping)
    this.keeping = window.setTimeout(() => this.keep(), KEEP_MS)
    this.tell({ status: 'waiting' })
    this.later(PAUSE_MS)
  }

  /** Whether anything is not saved yet. */
  get waits(): boolean {
    return this.latest !== null
  }

  /** Saves now what waits; resolves once nothing waits any more, or a save was refused. */
  async flush(): Promise<boolean> {
    window.clearTimeout(this.timer)
    while (this.latest || this.running) {
      await this.run()
      if (this.stopped) return false
    }
    return true
  }

  /** As `flush`, when the menu is no longer on the bench; whether anything of it was saved since it came there. */
  async leave(): Promise<boolean> {
    this.leaving = true
    await this.flush()
    onBench.delete(this)
    this.letGo?.()
    this.letGo = null
    return this.wrote
  }

  /** Sets out from what somebody else saved, which is on the screen already. False where something waits to be saved. */
  newer(hash: string, saved: Saved): boolean {
    if (this.latest || this.running) return false
    this.hash = hash
    this.saved = saved
    return true
  }

  /** Saves what waits without waiting for the next try: its person is signed in again, or the line is back. */
  again(): void {
    if (this.latest && this.told === 'failed') void this.run()
  }

  /**
   * Settles a conflict by the person's choices, then goes on saving. What somebody saved while it was settled may meet
   * it in turn: that is told as the first was. Throws what the server refuses.
   */
  async settle(
    ours: MenuDocument,
    met: Met,
    choices: Record<string, 'ours' | 'theirs' | 'both'>,
  ): Promise<void> {
    const worked = await this.mergeOn(ours, met.base, choices)
    if (worked.conflicts.length > 0) {
      this.tell({ ...met, conflicts: worked.conflicts })
      return
    }
    this.stopped = false
    this.rest(worked, ours)
    this.listeners.adopt(worked.document, ours)
    await this.flush()
  }

  /** A menu that two saved: as the other has it, and what comes of these choices. Nothing is kept. */
  async seen(
    ours: MenuDocument,
    met: Met,
    choices: Record<string, 'ours' | 'theirs' | 'both'>,
  ): Promise<{ theirs: MenuDocument; result: MenuDocument }> {
    const worked = await this.mergeOn(ours, met.base, choices)
    const path = { site: this.site.key, menu: this.menu, hash: worked.on }
    const theirs = await answered(
      client.GET('/api/sites/{site}/menus/{menu}/revisions/{hash}', { params: { path } }),
    )
    return { theirs, result: worked.document }
  }

  /** Said once while it stays so: who types is not told with every key that it waits. */
  private tell(state: SaveState): void {
    if (state.status === 'waiting' && this.told === 'waiting') return
    this.told = state.status
    this.listeners.state(state)
  }

  private later(ms: number): void {
    window.clearTimeout(this.timer)
    this.timer = window.setTimeout(() => void this.run(), ms)
  }

  private run(): Promise<void> {
    this.running ??= this.save().finally(() => {
      this.running = null
      if (this.latest && !this.stopped) this.later(PAUSE_MS)
    })
    return this.running
  }

  private async save(): Promise<void> {
    const document = this.latest
    if (!document) return
    this.stopped = false
    this.tell({ status: 'saving' })
    try {
      const saved = await answered(
        client.PUT('/api/sites/{site}/menus/{menu}', {
          params: {
            path: { site: this.site.key, menu: this.menu },
            header: { 'if-match': `"${this.hash}"` },
            query: this.leaving && this.home ? { in: this.home } : {},
          },
          body: document(),
        }),
      )
      this.tries = 0
      this.wrote = true
      this.hash = saved.hash
      this.saved = document()
      const opened = this.home !== saved.change?.id
      this.home = saved.change?.id
      this.listeners.saved(saved.hash, saved.changes, opened)
      if (this.latest === document) {
        this.latest = null
        window.clearTimeout(this.keeping)
        dropUnsaved(this.person, this.site.key, this.menu)
        this.tell({ status: 'saved', at: saved.saved_at })
      }
    } catch (error) {
      try {
        await this.refused(error)
      } catch (worse) {
        this.failed(worse)
      }
    }
  }

  /** Tried again where it may go through by itself. */
  private failed(error: unknown): void {
    const status = error instanceof Refused ? error.problem.status : null
    // An ended session is told over the page; what waits is saved once it is back.
    const again = status === null || status >= 500 || status === 429 || status === 401
    this.stopped = true
    this.keep()
    this.tell({ status: 'failed', error, again })
    if (!again || this.leaving) return
    this.tries += 1
    this.later(Math.min(AGAIN_MS * 2 ** (this.tries - 1), LONGEST_AGAIN_MS))
  }

  private async refused(error: unknown): Promise<void> {
    const merge = error instanceof Refused && error.problem.status === 412 ? error.problem.merge : undefined
    if (!merge) {
      this.failed(error)
      return
    }
    for (;;) {
      const ours = this.latest
      if (!ours) return
      let worked = await this.mergeOn(ours(), merge.base, {})
      // In two windows of one person, what was typed last holds: it is all theirs, and nothing of it is lost in the past.
      if (merge.own && worked.conflicts.length > 0)
        worked = await this.mergeOn(
          ours(),
          merge.base,
          Object.fromEntries(worked.conflicts.map((one) => [one.key, 'ours' as const])),
        )
      if (ours !== this.latest) continue
      if (worked.conflicts.length > 0) {
        this.stopped = true
        this.tell({
          status: 'conflict',
          base: merge.base,
          conflicts: worked.conflicts,
          by: merge.by,
          did: merge.did,
        })
        return
      }
      const sent = ours()
      this.rest(worked, sent)
      this.keep()
      this.listeners.adopt(worked.document, sent)
      this.tell({ status: 'waiting' })
      this.listeners.merged(merge.by, merge.did)
      return
    }
  }

  /** Goes on from a merge: what is saved by now is the merge without one's own edits. */
  private rest(worked: { on: string; document: MenuDocument }, sent: MenuDocument): void {
    const back = editsBetween(sent.items ?? [], this.saved.items ?? [])
    this.saved = { name: this.saved.name, items: [...brought(worked.document.items ?? [], back)] }
    this.hash = worked.on
    this.latest = () => worked.document
  }

  private async mergeOn(
    ours: MenuDocument,
    base: string,
    choices: Record<string, 'ours' | 'theirs' | 'both'>,
  ) {
    return await answered(
      client.POST('/api/sites/{site}/menus/{menu}/merge', {
        params: { path: { site: this.site.key, menu: this.menu } },
        body: { base, ours, choices },
      }),
    )
  }

  /** Keeps what is not saved yet in the browser: also called when the page goes away. */
  keep(): void {
    window.clearTimeout(this.keeping)
    if (!this.latest) return
    const { person, site, menu, hash, home } = this
    this.listeners.kept(
      keepUnsaved(person, {
        site: site.key,
        siteName: site.name,
        menu,
        hash,
        home,
        document: this.latest(),
        edits: countOf(this.saved, this.latest()),
      }),
    )
  }
}

/** How many edits lead from one to the other: fields, and lines that came, went or moved. */
function countOf(before: Saved, after: Saved): number {
  const { fields, gone, placed, orders } = editsBetween(before.items ?? [], after.items ?? [])
  const fieldsToo = fields.reduce((sum, [, some]) => sum + Object.keys(some).length, 0)
  return fieldsToo + gone.length + placed.length + orders.length + Number(before.name !== after.name)
}

const onBench = new Set<Saver>()
const SAVED_WITHIN_MS = 5_000
const LOOK_AGAIN_MS = 300

/** Saves everything that is on a bench, for as long as one may be asked to wait for it. */
export async function saveAll(): Promise<void> {
  // What is still being typed is put into its menu first, and the menu tells its saver once it is drawn.
  flushSync(finishAll)
  const enough = new Promise((resolve) => window.setTimeout(resolve, SAVED_WITHIN_MS))
  await Promise.race([Promise.all([...onBench].map((one) => one.flush())), enough])
}

/**
 * Saves what was left unsaved of a menu that no bench is at work on, in this window or another. False where it has to
 * wait, or needs its person.
 */
export function saveLeftover(person: string, left: Unsaved): Promise<boolean> {
  return alone(person, left.site, left.menu, () => sendLeftover(person, left))
}

/** As `saveLeftover`, all that was left of a site, for as long as one may be asked to wait. False where something is left. */
export async function saveLeftovers(person: string, site: string): Promise<boolean> {
  const left = () => allUnsaved(person).filter((one) => one.site === site)
  for (const until = performance.now() + SAVED_WITHIN_MS; ; ) {
    for (const one of left()) await saveLeftover(person, one)
    if (left().length === 0) return true
    if (performance.now() > until) return false
    // Another window, or another view of this one, may be about it.
    await new Promise((resolve) => window.setTimeout(resolve, LOOK_AGAIN_MS))
  }
}

async function sendLeftover(person: string, left: Unsaved): Promise<boolean> {
  const { site, menu, hash, home, document } = left
  try {
    await answered(
      client.PUT('/api/sites/{site}/menus/{menu}', {
        params: {
          path: { site, menu },
          header: { 'if-match': `"${hash}"` },
          query: home ? { in: home } : {},
        },
        body: document,
      }),
    )
  } catch {
    return false
  }
  dropUnsaved(person, site, menu)
  return true
}
