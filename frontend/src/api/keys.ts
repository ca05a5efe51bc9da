import { type QueryClient, useQueryClient } from '@tanstack/react-query'
import { useMemo } from 'react'

/** What queries are kept under: first whose they are, so that what changed can be named. */
export const keys = {
  /** All of one site: itself, its menus, pages, changes, and what is computed of them. */
  site: (site: string, ...what: unknown[]) => ['sites', site, ...what] as const,
  /** What is told of all sites together. */
  shelf: (...what: unknown[]) => ['shelf', ...what] as const,
  /** Templates, fonts and sets of facts, which sites share. */
  setup: (...what: unknown[]) => ['setup', ...what] as const,
  people: (...what: unknown[]) => ['people', ...what] as const,
  /** What was done. */
  ledger: (...what: unknown[]) => ['ledger', ...what] as const,
  /** One's own. */
  mine: (...what: unknown[]) => ['mine', ...what] as const,
  /** What is the same as long as the program is. */
  fixed: (...what: unknown[]) => ['fixed', ...what] as const,
}

/** What is read anew when somebody changed something, named by what that was. */
export interface Anew {
  site: (site: string) => Promise<unknown>
  change: (change: string) => Promise<unknown>
  /** A site came or went. */
  sites: () => Promise<unknown>
  setup: () => Promise<unknown>
  people: () => Promise<unknown>
  /** Where one is signed in. */
  mine: () => Promise<unknown>
}

export function anewOf(queries: QueryClient): Anew {
  const read = async (...which: (readonly unknown[])[]) => {
    // What is being read for the first time may have been asked before the change: it is read once more.
    const first = queries
      .getQueryCache()
      .findAll({ fetchStatus: 'fetching', predicate: (one) => one.state.data === undefined })
    await Promise.all(which.map((queryKey) => queries.invalidateQueries({ queryKey })))
    await Promise.all(
      which.map((queryKey) =>
        queries.invalidateQueries({ queryKey, predicate: (one) => first.includes(one) }),
      ),
    )
  }
  return {
    site: (site) => read(keys.site(site), keys.shelf(), keys.ledger()),
    change: (change) => read(keys.shelf('changes', change)),
    sites: () => read(['sites'], keys.shelf(), keys.setup(), keys.ledger()),
    // Every site is drawn with its template, and read with the facts that it shares.
    setup: () => read(keys.setup(), ['sites'], keys.shelf(), keys.ledger()),
    people: () => read(keys.people(), keys.ledger()),
    mine: () => read(keys.mine()),
  }
}

export function useAnew(): Anew {
  const queries = useQueryClient()
  return useMemo(() => anewOf(queries), [queries])
}
