import { type QueryClient, useQueryClient } from '@tanstack/react-query'
import { useRouter } from '@tanstack/react-router'
import { useEffect } from 'react'

/** A link with this attribute leads to a view that is likely wanted next. */
const LIKELY = 'a[data-ahead][href]'
const MOST = 24
/** As long as what was read ahead is kept: until then, nothing is read twice. */
const KEPT_MS = 300_000

/** When the browser has nothing else to do, and nothing is being asked for. */
function idle(queries: QueryClient): Promise<void> {
  const rest = () =>
    new Promise<void>((done) => {
      if ('requestIdleCallback' in window) requestIdleCallback(() => done(), { timeout: 2_000 })
      else setTimeout(done, 200)
    })
  return new Promise((done) => {
    const look = () => {
      if (queries.isFetching() > 0) return
      stop()
      void rest().then(done)
    }
    const stop = queries.getQueryCache().subscribe(look)
    look()
  })
}

function inSight(link: Element): boolean {
  const { top, bottom, width } = link.getBoundingClientRect()
  return width > 0 && bottom > 0 && top < window.innerHeight
}

/** Who pays for what is loaded, or waits long for it, gets what they ask for and nothing else (Network Information API). */
function sparing(): boolean {
  const { connection } = navigator as { connection?: { saveData?: boolean; effectiveType?: string } }
  return connection?.saveData === true || connection?.effectiveType?.endsWith('2g') === true
}

/**
 * Reads ahead what the likely links in sight lead to, script and first data, one after the other and each only while
 * nothing else is asked for: whoever follows one finds the view there.
 */
export function useReadAhead(may: boolean): void {
  const router = useRouter()
  const queries = useQueryClient()
  useEffect(() => {
    if (!may) return
    const read = new Map<string, number>()
    let over = false
    let round = 0
    const readAll = async () => {
      round += 1
      const mine = round
      const wanted = () => !over && mine === round && !document.hidden && navigator.onLine && !sparing()
      for (let at = 0; at < MOST; at += 1) {
        await idle(queries)
        if (!wanted()) return
        const now = Date.now()
        const next = [...document.querySelectorAll<HTMLAnchorElement>(LIKELY)].find(
          (link) =>
            now - (read.get(link.href) ?? 0) > KEPT_MS &&
            link.pathname !== window.location.pathname &&
            inSight(link),
        )
        if (!next) return
        read.set(next.href, now)
        const search = router.options.parseSearch?.(next.search) ?? {}
        await router.preloadRoute({ to: next.pathname, search } as never)
      }
    }
    const stop = router.subscribe('onRendered', () => void readAll())
    void readAll()
    return () => {
      over = true
      stop()
    }
  }, [may, router, queries])
}
