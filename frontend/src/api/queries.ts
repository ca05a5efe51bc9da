import { infiniteQueryOptions, keepPreviousData, queryOptions } from '@tanstack/react-query'
import { type Device, type Lens, point } from '../lens/lens'
import { answered, client, type Schemas } from './client'
import { keys } from './keys'
import { signsOf } from './signs'

export const sessionQuery = queryOptions({
  queryKey: keys.mine('session'),
  queryFn: () => answered(client.GET('/api/session')),
  staleTime: 60_000,
})

/** A line for every site, in the change that one looks in. */
export const shelfQuery = (inside: string | undefined) =>
  queryOptions({
    queryKey: keys.shelf('boards', inside ?? ''),
    queryFn: () => answered(client.GET('/api/shelf', { params: { query: { in: inside } } })),
    placeholderData: keepPreviousData,
  })

/** Which sites there are: keys and names, for choosing one. */
export const sitesQuery = queryOptions({
  queryKey: keys.shelf('sites'),
  queryFn: () => answered(client.GET('/api/shelf/sites')),
  staleTime: 30_000,
})

/** The signs of a site's board through the lens. */
export const signsQuery = (lens: Lens, site: string) =>
  queryOptions({
    queryKey: keys.site(site, 'signs', lens),
    queryFn: ({ signal }) => signsOf(lens, site, signal),
    placeholderData: keepPreviousData,
  })

export const siteQuery = (site: string) =>
  queryOptions({
    queryKey: keys.site(site, 'page'),
    queryFn: () => answered(client.GET('/api/sites/{site}', { params: { path: { site } } })),
  })

export const settingsQuery = (site: string) =>
  queryOptions({
    queryKey: keys.site(site, 'settings'),
    queryFn: () => answered(client.GET('/api/sites/{site}/settings', { params: { path: { site } } })),
    staleTime: 0,
  })

/** The sites that are put away. */
export const awayQuery = queryOptions({
  queryKey: keys.shelf('away'),
  queryFn: () => answered(client.GET('/api/shelf', { params: { query: { in: 'live', away: true } } })),
})

export const changesQuery = (site: string) =>
  queryOptions({
    queryKey: keys.site(site, 'changes'),
    queryFn: () => answered(client.GET('/api/sites/{site}/changes', { params: { path: { site } } })),
  })

export const conflictsQuery = (site: string, change: string) =>
  queryOptions({
    queryKey: keys.site(site, 'conflicts', change),
    queryFn: () =>
      answered(
        client.GET('/api/sites/{site}/changes/{change}/conflicts', { params: { path: { site, change } } }),
      ),
  })

export const searchQuery = (words: string) =>
  queryOptions({
    queryKey: keys.shelf('search', words),
    queryFn: ({ signal }) => answered(client.GET('/api/search', { params: { query: { words } }, signal })),
    placeholderData: keepPreviousData,
    staleTime: 5_000,
  })

/** What would go live if it were put live now. */
export const goingOutQuery = (site: string) =>
  queryOptions({
    queryKey: keys.site(site, 'going out'),
    queryFn: ({ signal }) =>
      answered(client.GET('/api/sites/{site}/going-out', { params: { path: { site } }, signal })),
  })

export const draftQuery = (site: string) =>
  queryOptions({
    queryKey: keys.site(site, 'draft'),
    queryFn: () => answered(client.GET('/api/sites/{site}/draft', { params: { path: { site } } })),
  })

export const benchQuery = (site: string, menu: string) =>
  queryOptions({
    queryKey: keys.site(site, 'bench', menu),
    queryFn: () =>
      answered(client.GET('/api/sites/{site}/menus/{menu}', { params: { path: { site, menu } } })),
  })

const searchPages = (site: string, words: string, limit: number, places: boolean, signal?: AbortSignal) =>
  answered(
    client.GET('/api/sites/{site}/pages', {
      params: { path: { site }, query: { words, limit, places } },
      signal,
    }),
  )

/** Pages for a line that waits for them: nobody watches this search, and nothing gives it up. */
export const pagesLaterQuery = (site: string, words: string, limit: number) =>
  queryOptions({
    queryKey: keys.site(site, 'pages', words, limit, 'later'),
    queryFn: () => searchPages(site, words, limit, false),
    retry: 2,
  })

export const pagesQuery = (site: string, words: string, limit: number, places = false) =>
  queryOptions({
    queryKey: keys.site(site, 'pages', words, limit, places),
    // A search that further typing has overtaken is given up.
    queryFn: ({ signal }: { signal: AbortSignal }) => searchPages(site, words, limit, places, signal),
    placeholderData: keepPreviousData,
  })

export const resolvedQuery = (
  site: string,
  menu: string,
  lens: Lens,
  location: string | null,
  hash: string,
) =>
  queryOptions({
    queryKey: keys.site(site, 'resolved', menu, lens, location, hash),
    queryFn: ({ signal }) =>
      answered(
        client.GET('/api/sites/{site}/menus/{menu}/resolved', {
          params: { path: { site, menu }, query: { ...point(lens), location } },
          signal,
        }),
      ),
    placeholderData: keepPreviousData,
  })

export const vocabularyQuery = (site: string) =>
  queryOptions({
    queryKey: keys.site(site, 'vocabulary'),
    queryFn: () => answered(client.GET('/api/sites/{site}/vocabulary', { params: { path: { site } } })),
    staleTime: 30_000,
  })

export const iconsQuery = (words: string, limit = 48) =>
  queryOptions({
    queryKey: keys.fixed('icons', words, limit),
    queryFn: () => answered(client.GET('/api/icons', { params: { query: { words, limit } } })),
    staleTime: Number.POSITIVE_INFINITY,
    placeholderData: keepPreviousData,
  })

export const relationsQuery = queryOptions({
  queryKey: keys.fixed('relations'),
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
    queryKey: keys.site(site, 'listing', menu, hash, list, language),
    queryFn: ({ signal }) =>
      answered(
        client.POST('/api/sites/{site}/menus/{menu}/listing', {
          params: { path: { site, menu } },
          body: { list, language },
          signal,
        }),
      ),
    placeholderData: keepPreviousData,
  })

export const findingsQuery = (site: string, menu: string, hash: string, at: string | undefined) =>
  queryOptions({
    queryKey: keys.site(site, 'findings', menu, hash, at ?? ''),
    queryFn: ({ signal }) =>
      answered(
        client.GET('/api/sites/{site}/menus/{menu}/findings', {
          params: { path: { site, menu }, query: { at } },
          signal,
        }),
      ),
    placeholderData: keepPreviousData,
  })

/** What is found on all sites, or on one, by cause; read again while addresses are asked. */
export const causesQuery = (shown: 'open' | 'waived' | 'gone', site: string | undefined) =>
  queryOptions({
    queryKey: keys.shelf('findings', shown, site ?? ''),
    queryFn: ({ signal }) =>
      answered(client.GET('/api/findings', { params: { query: { shown, site } }, signal })),
    placeholderData: keepPreviousData,
    refetchInterval: (query) => {
      const found = query.state.data
      return found && (found.links.due > 0 || found.unchecked > 0) ? 2_000 : false
    },
  })

/** Whether each site shows what was verified there. */
export const syncQuery = queryOptions({
  queryKey: keys.shelf('sync'),
  queryFn: () => answered(client.GET('/api/sync')),
  refetchInterval: 5_000,
})

/** How a site gets its menus, and what is known for the other ways. */
export const connectionQuery = (site: string) =>
  queryOptions({
    queryKey: keys.site(site, 'connection'),
    queryFn: () => answered(client.GET('/api/sites/{site}/connection', { params: { path: { site } } })),
  })

/** What a person carries out on the site; whether it is done is told by a worker. */
export const byHandQuery = (site: string, release: string) =>
  queryOptions({
    queryKey: keys.site(site, 'by hand', release),
    queryFn: () => answered(client.GET('/api/releases/{release}/by-hand', { params: { path: { release } } })),
    refetchInterval: 3_000,
  })

/** One's own ways of looking at the shelf. */
export const shelfViewsQuery = queryOptions({
  queryKey: keys.mine('shelf views'),
  queryFn: () => answered(client.GET('/api/shelf/views')),
})

/** Menus that the agency shares. */
export const sharedMenusQuery = queryOptions({
  queryKey: keys.shelf('shared menus'),
  queryFn: () => answered(client.GET('/api/shared-menus')),
})

/** One of them, with the sites that follow it. */
export const sharedMenuQuery = (shared: string) =>
  queryOptions({
    queryKey: keys.shelf('shared menus', shared),
    queryFn: () => answered(client.GET('/api/shared-menus/{shared}', { params: { path: { shared } } })),
  })

/** What rolling forward to its newest version does at each site that is behind. */
export const forwardQuery = (shared: string, version: number) =>
  queryOptions({
    queryKey: keys.shelf('shared menus', shared, 'forward', version),
    queryFn: () =>
      answered(client.GET('/api/shared-menus/{shared}/forward', { params: { path: { shared } } })),
  })

/** The same place of several sites side by side. */
export const comparedQuery = (sites: readonly string[], location: string, device: Device) =>
  queryOptions({
    queryKey: keys.shelf('compared', sites, location, device),
    queryFn: ({ signal }) =>
      answered(
        client.GET('/api/compare', { params: { query: { site: [...sites], location, device } }, signal }),
      ),
    placeholderData: keepPreviousData,
    enabled: sites.length > 1 && location !== '',
    retry: false,
  })

/** Entries of all menus that are live, by a query. */
export const sweptQuery = (query: string) =>
  queryOptions({
    queryKey: keys.shelf('swept', query),
    queryFn: ({ signal }) => answered(client.GET('/api/sweeps', { params: { query: { query } }, signal })),
    placeholderData: keepPreviousData,
    enabled: query !== '',
    retry: false,
  })

/** A menu as it is live. */
export const liveMenuQuery = (site: string, menu: string) =>
  queryOptions({
    queryKey: keys.site(site, 'live menu', menu),
    queryFn: () =>
      answered(
        client.GET('/api/sites/{site}/menus/{menu}', {
          params: { path: { site, menu }, query: { in: 'live' } },
        }),
      ),
  })

/** What will be found at the lens's moment. */
export const findingsAheadQuery = (site: string | undefined, lens: Lens) =>
  queryOptions({
    queryKey: keys.shelf('findings', 'ahead', site ?? '', lens.at ?? ''),
    queryFn: ({ signal }) =>
      answered(client.GET('/api/findings/ahead', { params: { query: { site, at: lens.at } }, signal })),
    placeholderData: keepPreviousData,
    enabled: lens.at !== undefined,
  })

/** What hangs where at the lens's moment. */
export const hangingThenQuery = (site: string, lens: Lens) =>
  queryOptions({
    queryKey: keys.site(site, 'hanging then', lens.at ?? '', lens.in ?? ''),
    queryFn: ({ signal }) =>
      answered(
        client.GET('/api/sites/{site}/hanging-then', {
          params: { path: { site }, query: point(lens) },
          signal,
        }),
      ),
    enabled: lens.at !== undefined,
  })

/** How much is found at each site, by its key. */
export const findingCountsQuery = queryOptions({
  queryKey: keys.shelf('findings', 'counts'),
  queryFn: () => answered(client.GET('/api/findings/counts')),
  staleTime: 30_000,
})

export const causeQuery = (code: string, cause: string) =>
  queryOptions({
    queryKey: keys.shelf('findings', 'cause', code, cause),
    queryFn: ({ signal }) =>
      answered(client.GET('/api/findings/cause', { params: { query: { code, cause } }, signal })),
  })

export const historyQuery = (site: string, menu: string, language: string) => ({
  queryKey: keys.site(site, 'history', menu, language),
  initialPageParam: undefined as number | undefined,
  queryFn: ({ pageParam }: { pageParam: number | undefined }) =>
    answered(
      client.GET('/api/sites/{site}/menus/{menu}/history', {
        params: { path: { site, menu }, query: { language, before: pageParam } },
      }),
    ),
  getNextPageParam: (last: Schemas['HistoryPage']) => last.next ?? undefined,
})

export interface LedgerAsked {
  who?: string
  site?: string
  action?: readonly string[]
  /** A day of the reader's own calendar. */
  day?: string
}

const LEDGER_PAGE = 100

/** The ledger as it answers to what is asked, a page after another. */
/** As the server is asked: a day is one of the reader's own clock. */
export function ledgerAsked({ who, site, action, day }: LedgerAsked) {
  const since = day ? new Date(`${day}T00:00`) : undefined
  const until = since && new Date(since.getFullYear(), since.getMonth(), since.getDate() + 1)
  return {
    who,
    site,
    action: action?.length ? [...action] : undefined,
    since: since?.toISOString(),
    until: until?.toISOString(),
  }
}

export const ledgerQuery = (asked: LedgerAsked) =>
  infiniteQueryOptions({
    queryKey: keys.ledger(asked),
    initialPageParam: undefined as number | undefined,
    queryFn: ({ pageParam, signal }) => {
      const query = { limit: LEDGER_PAGE, before: pageParam, ...ledgerAsked(asked) }
      return answered(client.GET('/api/ledger', { params: { query }, signal }))
    },
    getNextPageParam: (last) => (last.length === LEDGER_PAGE ? last.at(-1)?.id : undefined),
  })

export const elevationQuery = (site: string, lens: Lens, state: { scrolled: boolean; drawer: boolean }) =>
  queryOptions({
    queryKey: keys.site(site, 'elevation', lens, state),
    queryFn: ({ signal }) =>
      answered(
        client.GET('/api/sites/{site}/elevation', {
          params: { path: { site }, query: { ...point(lens), ...state } },
          signal,
        }),
      ),
    placeholderData: keepPreviousData,
  })

export const devicesQuery = (site: string, location: string, lens: Lens) =>
  queryOptions({
    queryKey: keys.site(site, 'devices', location, lens),
    queryFn: ({ signal }) =>
      answered(
        client.GET('/api/sites/{site}/places/{location}/devices', {
          params: { path: { site, location }, query: point(lens) },
          signal,
        }),
      ),
  })

/** How far a site's pages are known; asked for again while they are read. */
export const inventoryQuery = (site: string) =>
  queryOptions({
    queryKey: keys.site(site, 'inventory'),
    queryFn: ({ signal }) =>
      answered(client.GET('/api/sites/{site}/inventory', { params: { path: { site } }, signal })),
    refetchInterval: (query) => (query.state.data?.reading ? 800 : 60_000),
  })

export const pageNewsQuery = (site: string, since: string) =>
  queryOptions({
    queryKey: keys.site(site, 'page news', since),
    queryFn: ({ signal }) =>
      answered(
        client.GET('/api/sites/{site}/inventory/news', {
          params: { path: { site }, query: { since } },
          signal,
        }),
      ),
    placeholderData: keepPreviousData,
  })

export const placeholdersQuery = queryOptions({
  queryKey: keys.shelf('placeholders'),
  queryFn: ({ signal }) => answered(client.GET('/api/placeholders', { signal })),
})

export const withoutQuery = (site: string, ref: string, lens: Lens) =>
  queryOptions({
    queryKey: keys.site(site, 'without', ref, lens),
    queryFn: ({ signal }) =>
      answered(
        client.GET('/api/sites/{site}/inventory/pages/{ref}/without', {
          params: { path: { site, ref }, query: point(lens) },
          signal,
        }),
      ),
  })

export const reachQuery = (site: string, lens: Lens) =>
  queryOptions({
    queryKey: keys.site(site, 'reach', lens),
    queryFn: ({ signal }) =>
      answered(
        client.GET('/api/sites/{site}/reach', { params: { path: { site }, query: point(lens) }, signal }),
      ),
  })

export const rulerQuery = (site: string, location: string, lens: Lens, hash: string, width: number | null) =>
  queryOptions({
    queryKey: keys.site(site, 'ruler', location, lens, hash, width),
    queryFn: ({ signal }) =>
      answered(
        client.GET('/api/sites/{site}/places/{location}/fit', {
          params: { path: { site, location }, query: { ...point(lens), width } },
          signal,
        }),
      ),
    placeholderData: keepPreviousData,
  })

export const factsQuery = (site: string) =>
  queryOptions({
    queryKey: keys.site(site, 'facts'),
    queryFn: () => answered(client.GET('/api/sites/{site}/facts', { params: { path: { site } } })),
    staleTime: 10_000,
  })

export const allAudiencesQuery = queryOptions({
  queryKey: keys.shelf('audiences'),
  queryFn: () => answered(client.GET('/api/audiences')),
  staleTime: 60_000,
})

export const timelineQuery = (site: string, lens: Lens, days: number, menus = '') =>
  queryOptions({
    queryKey: keys.site(site, 'timeline', lens, days, menus),
    queryFn: ({ signal }) =>
      answered(
        client.GET('/api/sites/{site}/timeline', {
          params: { path: { site }, query: { ...point(lens), days } },
          signal,
        }),
      ),
    staleTime: 10_000,
    placeholderData: keepPreviousData,
  })

export const ruleQuery = (site: string, lens: Lens, rule: string, above: readonly string[]) =>
  queryOptions({
    queryKey: keys.site(site, 'rule', lens, rule, above),
    queryFn: ({ signal }) =>
      answered(
        client.POST('/api/sites/{site}/rules/read', {
          params: { path: { site }, query: point(lens) },
          body: { rule, above: [...above] },
          signal,
        }),
      ),
    placeholderData: keepPreviousData,
  })

export const audiencesQuery = (site: string, location: string, lens: Lens) =>
  queryOptions({
    queryKey: keys.site(site, 'audiences', location, lens),
    queryFn: ({ signal }) =>
      answered(
        client.GET('/api/sites/{site}/places/{location}/audiences', {
          params: { path: { site, location }, query: point(lens) },
          signal,
        }),
      ),
    placeholderData: keepPreviousData,
  })

export const traceQuery = (site: string, location: string, item: string, lens: Lens) =>
  queryOptions({
    queryKey: keys.site(site, 'trace', location, item, lens),
    queryFn: ({ signal }) =>
      answered(
        client.GET('/api/sites/{site}/places/{location}/trace', {
          params: { path: { site, location }, query: { ...point(lens), item } },
          signal,
        }),
      ),
  })

export const clockQuery = (site: string, at: string) =>
  queryOptions({
    queryKey: keys.site(site, 'clock', at),
    queryFn: () =>
      answered(client.GET('/api/sites/{site}/clock', { params: { path: { site }, query: { at } } })),
    staleTime: Number.POSITIVE_INFINITY,
  })

export const templatesQuery = queryOptions({
  queryKey: keys.setup('templates'),
  queryFn: () => answered(client.GET('/api/templates')),
})

export const fontsQuery = queryOptions({
  queryKey: keys.setup('fonts'),
  queryFn: () => answered(client.GET('/api/fonts')),
  staleTime: 60_000,
})

export const plainLookQuery = queryOptions({
  queryKey: keys.fixed('plain look'),
  queryFn: () => answered(client.GET('/api/looks/plain')),
  staleTime: Number.POSITIVE_INFINITY,
})

export const mySignInsQuery = queryOptions({
  queryKey: keys.mine('sign-ins'),
  queryFn: () => answered(client.GET('/api/session/sign-ins')),
})

/** Changes of all sites that are neither live nor over. */
export const openChangesQuery = queryOptions({
  queryKey: keys.shelf('changes'),
  queryFn: () => answered(client.GET('/api/changes')),
  staleTime: 15_000,
  refetchInterval: 60_000,
})

const SOON_MS = 120_000

/** Whether one of the change's moments is near. */
function isSoon(told: Schemas['OneChangeOut'] | undefined): boolean {
  const moments = told?.change.sites.flatMap((one) => [one.goes_at, one.ends_at]) ?? []
  return moments.some((at) => at && Math.abs(Date.parse(at) - Date.now()) < SOON_MS)
}

/** Every moment of all sites that is still to come, with what stands in its way. */
export const aheadQuery = queryOptions({
  queryKey: keys.shelf('ahead'),
  queryFn: () => answered(client.GET('/api/ahead')),
  staleTime: 15_000,
  refetchInterval: 60_000,
})

/** What became another in a change since one looked at it; asked again where it is another by now. */
export const sinceQuery = (change: string, content: string) =>
  queryOptions({
    queryKey: keys.shelf('changes', change, 'since', content),
    queryFn: () => answered(client.GET('/api/changes/{change}/since', { params: { path: { change } } })),
  })

/** Menus that a change and what is live do not agree on, with what comes of these choices. */
export const settlingQuery = (
  site: string,
  change: string,
  choices: Record<string, 'ours' | 'theirs' | 'both'>,
) =>
  queryOptions({
    queryKey: keys.site(site, 'settling', change, choices),
    queryFn: () =>
      answered(
        client.POST('/api/sites/{site}/changes/{change}/settling', {
          params: { path: { site, change } },
          body: { choices },
        }),
      ),
  })

/** What comes in the next years of changes that come back every year. */
export const seasonsQuery = queryOptions({
  queryKey: keys.shelf('seasons'),
  queryFn: () => answered(client.GET('/api/seasons')),
})

/** Entries that come or go by themselves. */
export const windowsQuery = queryOptions({
  queryKey: keys.shelf('windows'),
  queryFn: () => answered(client.GET('/api/windows')),
})

/** Whether one has addresses of feeds. */
export const feedsQuery = queryOptions({
  queryKey: keys.mine('feeds'),
  queryFn: () => answered(client.GET('/api/feeds')),
})

/** When nothing goes live. */
export const freezesQuery = queryOptions({
  queryKey: keys.shelf('freezes'),
  queryFn: () => answered(client.GET('/api/freezes')),
})

/** One of them: what it does to each site, who said what of it. */
export const oneChangeQuery = (change: string) =>
  queryOptions({
    queryKey: keys.shelf('changes', change),
    queryFn: () => answered(client.GET('/api/changes/{change}', { params: { path: { change } } })),
    // It goes live and comes back by itself: looked at often while it does, or is about to.
    refetchInterval: ({ state }) => (state.data?.on_its_way ? 2_000 : isSoon(state.data) ? 5_000 : 60_000),
  })

/** A menu as a change found it, beside what the change makes of it. */
export const railsQuery = (change: string, site: string, menu: string, language: string | undefined) =>
  queryOptions({
    queryKey: keys.shelf('changes', change, 'rails', site, menu, language),
    queryFn: () =>
      answered(
        client.GET('/api/changes/{change}/sites/{site}/menus/{menu}/rails', {
          params: { path: { change, site, menu }, query: { language } },
        }),
      ),
  })

/** What a change brings visitors of one of its sites. */
export const bringsQuery = (change: string, site: string) =>
  queryOptions({
    queryKey: keys.shelf('changes', change, 'brings', site),
    queryFn: ({ signal }) =>
      answered(
        client.GET('/api/changes/{change}/sites/{site}/brings', {
          params: { path: { change, site } },
          signal,
        }),
      ),
  })

/** The places that a change draws otherwise, before and after. */
export const drawnPlacesQuery = (
  change: string,
  site: string,
  device: Device,
  language: string | undefined,
) =>
  queryOptions({
    queryKey: keys.shelf('changes', change, 'drawn', site, device, language),
    queryFn: ({ signal }) =>
      answered(
        client.GET('/api/changes/{change}/sites/{site}/drawn', {
          params: { path: { change, site }, query: { device, language } },
          signal,
        }),
      ),
    placeholderData: keepPreviousData,
  })

/** What anybody gets in a place as it is live, as HTML for the site's own pages. */
export const plainQuery = (site: string, location: string) =>
  queryOptions({
    queryKey: keys.site(site, 'plain', location),
    queryFn: () =>
      answered(
        client.GET('/api/sites/{site}/places/{location}/plain', {
          params: { path: { site, location }, query: { in: 'live' } },
        }),
      ),
  })

/** What one is told; looked at again while something is on its way. */
export const noticesQuery = queryOptions({
  queryKey: keys.mine('notices'),
  queryFn: () => answered(client.GET('/api/notices')),
  refetchInterval: ({ state }) =>
    state.data?.channels.some(({ told }) =>
      told.some((one) => one.state === 'waiting' || one.state === 'going'),
    )
      ? 2_000
      : false,
})

/** Null where mail is sent in earnest. */
export const keptMailQuery = queryOptions({
  queryKey: keys.setup('kept-mail'),
  queryFn: async () => {
    const notices = await answered(client.GET('/api/notices'))
    return notices.kept ? answered(client.GET('/api/notices/kept-mail')) : null
  },
  refetchInterval: 15_000,
})

/** The identity provider by which one may sign in, where there is one. */
export const elsewhereQuery = queryOptions({
  queryKey: ['elsewhere'],
  queryFn: () => answered(client.GET('/api/session/elsewhere')),
  staleTime: Number.POSITIVE_INFINITY,
})

export const invitationQuery = (token: string) =>
  queryOptions({
    queryKey: ['invitation', token],
    queryFn: () => answered(client.GET('/api/invitations/{token}', { params: { path: { token } } })),
  })

export const invitationsQuery = queryOptions({
  queryKey: keys.people('invitations'),
  queryFn: () => answered(client.GET('/api/people/invitations')),
})

export const teamsQuery = queryOptions({
  queryKey: keys.people('teams'),
  queryFn: () => answered(client.GET('/api/teams')),
})

export const secondFactorQuery = queryOptions({
  queryKey: keys.mine('second factor'),
  queryFn: () => answered(client.GET('/api/session/second-factor')),
})

export const peopleQuery = queryOptions({
  queryKey: keys.people('all'),
  queryFn: () => answered(client.GET('/api/people')),
})

export const signInsQuery = (person_id: string) =>
  queryOptions({
    queryKey: keys.people('sign-ins', person_id),
    queryFn: () =>
      answered(client.GET('/api/people/{person_id}/sign-ins', { params: { path: { person_id } } })),
  })

export const readyQuery = queryOptions({
  queryKey: keys.fixed('ready'),
  queryFn: () => answered(client.GET('/api/health/ready')),
  refetchInterval: 15_000,
  retry: false,
})
