import { keepPreviousData, queryOptions } from '@tanstack/react-query'
import type { Device } from '../app/lens'
import { answered, client, type Schemas } from './client'

export const sessionQuery = queryOptions({
  queryKey: ['session'],
  queryFn: () => answered(client.GET('/api/session')),
  staleTime: 60_000,
})

export const shelfQuery = (device: Device) =>
  queryOptions({
    queryKey: ['shelf', device],
    queryFn: () => answered(client.GET('/api/shelf', { params: { query: { device } } })),
  })

export const siteQuery = (site: string) =>
  queryOptions({
    queryKey: ['site', site],
    queryFn: () => answered(client.GET('/api/sites/{site}', { params: { path: { site } } })),
  })

export const benchQuery = (site: string, menu: string) =>
  queryOptions({
    queryKey: ['bench', site, menu],
    queryFn: () =>
      answered(client.GET('/api/sites/{site}/menus/{menu}', { params: { path: { site, menu } } })),
  })

export const pagesQuery = (site: string, words: string, limit: number, places = false) =>
  queryOptions({
    queryKey: ['pages', site, words, limit, places],
    // A search that further typing has overtaken is given up.
    queryFn: ({ signal }: { signal: AbortSignal }) =>
      answered(
        client.GET('/api/sites/{site}/pages', {
          params: { path: { site }, query: { words, limit, places } },
          signal,
        }),
      ),
    placeholderData: keepPreviousData,
  })

export const resolvedQuery = (
  site: string,
  menu: string,
  device: Device,
  location: string | null,
  language: string,
  hash: string,
) =>
  queryOptions({
    queryKey: ['resolved', site, menu, device, location, language, hash],
    queryFn: () =>
      answered(
        client.GET('/api/sites/{site}/menus/{menu}/resolved', {
          params: { path: { site, menu }, query: { device, location, language } },
        }),
      ),
    placeholderData: keepPreviousData,
  })

export const vocabularyQuery = (site: string) =>
  queryOptions({
    queryKey: ['vocabulary', site],
    queryFn: () => answered(client.GET('/api/sites/{site}/vocabulary', { params: { path: { site } } })),
    staleTime: 30_000,
  })

export const iconsQuery = (words: string, limit = 48) =>
  queryOptions({
    queryKey: ['icons', words, limit],
    queryFn: () => answered(client.GET('/api/icons', { params: { query: { words, limit } } })),
    staleTime: Number.POSITIVE_INFINITY,
    placeholderData: keepPreviousData,
  })

export const relationsQuery = queryOptions({
  queryKey: ['relations'],
  queryFn: () => answered(client.GET('/api/relations')),
  staleTime: Number.POSITIVE_INFINITY,
})

export const listingQuery = (
  site: string,
  menu: string,
  hash: string,
  list: Record<string, unknown>,
  language: string,
) =>
  queryOptions({
    queryKey: ['listing', site, menu, hash, list, language],
    queryFn: () =>
      answered(
        client.POST('/api/sites/{site}/menus/{menu}/listing', {
          params: { path: { site, menu } },
          body: { list, language },
        }),
      ),
    placeholderData: keepPreviousData,
  })

export const findingsQuery = (site: string, menu: string, hash: string) =>
  queryOptions({
    queryKey: ['findings', site, menu, hash],
    queryFn: () =>
      answered(client.GET('/api/sites/{site}/menus/{menu}/findings', { params: { path: { site, menu } } })),
    placeholderData: keepPreviousData,
  })

export const historyQuery = (site: string, menu: string, language: string) => ({
  queryKey: ['history', site, menu, language],
  initialPageParam: undefined as number | undefined,
  queryFn: ({ pageParam }: { pageParam: number | undefined }) =>
    answered(
      client.GET('/api/sites/{site}/menus/{menu}/history', {
        params: { path: { site, menu }, query: { language, before: pageParam } },
      }),
    ),
  getNextPageParam: (last: Schemas['HistoryPage']) => last.next ?? undefined,
})

export const ledgerQuery = queryOptions({
  queryKey: ['ledger'],
  queryFn: () => answered(client.GET('/api/ledger', { params: { query: { limit: 200 } } })),
})

export const elevationQuery = (
  site: string,
  asked: { device: Device; language?: string; page?: string; scrolled: boolean; drawer: boolean },
) =>
  queryOptions({
    queryKey: ['elevation', site, asked],
    queryFn: () =>
      answered(client.GET('/api/sites/{site}/elevation', { params: { path: { site }, query: asked } })),
    placeholderData: keepPreviousData,
  })

export const devicesQuery = (site: string, location: string, language?: string) =>
  queryOptions({
    queryKey: ['devices', site, location, language],
    queryFn: () =>
      answered(
        client.GET('/api/sites/{site}/places/{location}/devices', {
          params: { path: { site, location }, query: { language } },
        }),
      ),
  })

export const reachQuery = (site: string, language?: string) =>
  queryOptions({
    queryKey: ['reach', site, language],
    queryFn: () =>
      answered(client.GET('/api/sites/{site}/reach', { params: { path: { site }, query: { language } } })),
  })

export const rulerQuery = (
  site: string,
  location: string,
  device: Device,
  hash: string,
  width: number | null,
) =>
  queryOptions({
    queryKey: ['ruler', site, location, device, hash, width],
    queryFn: () =>
      answered(
        client.GET('/api/sites/{site}/places/{location}/fit', {
          params: { path: { site, location }, query: { device, width } },
        }),
      ),
    placeholderData: keepPreviousData,
  })

export const templatesQuery = queryOptions({
  queryKey: ['templates'],
  queryFn: () => answered(client.GET('/api/templates')),
})

export const fontsQuery = queryOptions({
  queryKey: ['fonts'],
  queryFn: () => answered(client.GET('/api/fonts')),
  staleTime: 60_000,
})
