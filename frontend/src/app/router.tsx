import type { QueryClient } from '@tanstack/react-query'
import {
  createRootRouteWithContext,
  createRoute,
  createRouter,
  lazyRouteComponent,
  redirect,
} from '@tanstack/react-router'
import {
  aheadQuery,
  audiencesQuery,
  benchQuery,
  causesQuery,
  connectionQuery,
  ledgerQuery,
  mySignInsQuery,
  openChangesQuery,
  pagesQuery,
  placeholdersQuery,
  sessionQuery,
  sharedMenusQuery,
  shelfQuery,
  siteQuery,
  syncQuery,
  templatesQuery,
} from '../api/queries'
import { readLens } from '../lens/lens'
import { readChange } from './changes'
import { readCompare } from './compare'
import { Frame } from './Frame'
import { readFindings } from './findings'
import { NotHere } from './NotHere'
import { readShared } from './shared'
import { readShelf } from './shelf'
import { readSweep } from './sweep'

interface Context {
  queries: QueryClient
}

/**
 * What a view shows first is asked for while its script is still on the way, or while one points at the link to it: by
 * whom somebody knows. Nothing waits for it and nothing fails by it, as the view says itself what is missing.
 */
function soon({ queries }: Context, ask: (queries: QueryClient) => unknown): void {
  void queries.ensureQueryData(sessionQuery).then(
    () => ask(queries),
    () => undefined,
  )
}

const root = createRootRouteWithContext<Context>()({ validateSearch: readLens, component: Frame })

const home = createRoute({
  getParentRoute: () => root,
  path: '/',
  beforeLoad: () => {
    throw redirect({ to: '/shelf', search: { device: 'desktop' } })
  },
})
const shelf = createRoute({
  getParentRoute: () => root,
  path: '/shelf',
  validateSearch: readShelf,
  loaderDeps: ({ search }) => ({ inside: search.in }),
  loader: ({ context, deps }) => soon(context, (queries) => queries.prefetchQuery(shelfQuery(deps.inside))),
  component: lazyRouteComponent(() => import('../views/shelf/Shelf'), 'Shelf'),
})
const invitation = createRoute({ getParentRoute: () => root, path: '/invitation/$token' })
const takeIn = createRoute({
  getParentRoute: () => root,
  path: '/take-in',
  component: lazyRouteComponent(() => import('../views/take-in/TakeIn'), 'TakeIn'),
})
const site = createRoute({
  getParentRoute: () => root,
  path: '/sites/$site',
  loader: ({ context, params }) => soon(context, (queries) => queries.prefetchQuery(siteQuery(params.site))),
  component: lazyRouteComponent(() => import('../views/site/Site'), 'Site'),
})
const connection = createRoute({
  getParentRoute: () => root,
  path: '/sites/$site/connection',
  loader: ({ context, params }) =>
    soon(context, (queries) => queries.prefetchQuery(connectionQuery(params.site))),
  component: lazyRouteComponent(() => import('../views/site/connection/Connection'), 'Connection'),
})
const bench = createRoute({
  getParentRoute: () => root,
  path: '/sites/$site/menus/$menu',
  loader: ({ context, params }) =>
    soon(context, (queries) => queries.prefetchQuery(benchQuery(params.site, params.menu))),
  component: lazyRouteComponent(() => import('../views/bench/Bench'), 'Bench'),
})
const pages = createRoute({
  getParentRoute: () => root,
  path: '/sites/$site/pages',
  loader: ({ context, params }) =>
    soon(context, (queries) => {
      void queries.prefetchQuery(siteQuery(params.site))
      void queries.prefetchQuery(pagesQuery(params.site, '', 500, true))
    }),
  component: lazyRouteComponent(() => import('../views/pages/Pages'), 'Pages'),
})
const audiences = createRoute({
  getParentRoute: () => root,
  path: '/sites/$site/audiences/$location',
  loaderDeps: ({ search }) => ({ lens: readLens(search) }),
  loader: ({ context, params, deps }) =>
    soon(context, (queries) =>
      queries.prefetchQuery(
        audiencesQuery(params.site, params.location, {
          ...deps.lens,
          device: 'desktop',
          audience: undefined,
        }),
      ),
    ),
  component: lazyRouteComponent(() => import('../views/audiences/Audiences'), 'Audiences'),
})
const setup = createRoute({
  getParentRoute: () => root,
  path: '/setup',
  loader: ({ context }) => soon(context, (queries) => queries.prefetchQuery(templatesQuery)),
  component: lazyRouteComponent(() => import('../views/setup/Setup'), 'Setup'),
})
const you = createRoute({
  getParentRoute: () => root,
  path: '/you',
  loader: ({ context }) => soon(context, (queries) => queries.prefetchQuery(mySignInsQuery)),
  component: lazyRouteComponent(() => import('../views/you/You'), 'You'),
})
const findings = createRoute({
  getParentRoute: () => root,
  path: '/findings',
  validateSearch: readFindings,
  loader: ({ context }) => soon(context, (queries) => queries.prefetchQuery(causesQuery('open', undefined))),
  component: lazyRouteComponent(() => import('../views/findings/Findings'), 'Findings'),
})
const changes = createRoute({
  getParentRoute: () => root,
  path: '/changes',
  validateSearch: readChange,
  loader: ({ context }) => soon(context, (queries) => queries.prefetchQuery(openChangesQuery)),
  component: lazyRouteComponent(() => import('../views/changes/Changes'), 'Changes'),
})
const calendar = createRoute({
  getParentRoute: () => root,
  path: '/calendar',
  loader: ({ context }) => soon(context, (queries) => queries.prefetchQuery(aheadQuery)),
  component: lazyRouteComponent(() => import('../views/calendar/Calendar'), 'Calendar'),
})
const placeholders = createRoute({
  getParentRoute: () => root,
  path: '/placeholders',
  loader: ({ context }) => soon(context, (queries) => queries.prefetchQuery(placeholdersQuery)),
  component: lazyRouteComponent(() => import('../views/placeholders/Placeholders'), 'Placeholders'),
})
const compare = createRoute({
  getParentRoute: () => root,
  path: '/compare',
  validateSearch: readCompare,
  component: lazyRouteComponent(() => import('../views/compare/Compare'), 'Compare'),
})
const shared = createRoute({
  getParentRoute: () => root,
  path: '/shared',
  validateSearch: readShared,
  loader: ({ context }) => soon(context, (queries) => queries.prefetchQuery(sharedMenusQuery)),
  component: lazyRouteComponent(() => import('../views/shared/Shared'), 'Shared'),
})
const sync = createRoute({
  getParentRoute: () => root,
  path: '/sync',
  validateSearch: readFindings,
  loader: ({ context }) => soon(context, (queries) => queries.prefetchQuery(syncQuery)),
  component: lazyRouteComponent(() => import('../views/sync/Sync'), 'Sync'),
})
const sweep = createRoute({
  getParentRoute: () => root,
  path: '/sweep',
  validateSearch: readSweep,
  component: lazyRouteComponent(() => import('../views/sweep/Sweep'), 'Sweep'),
})
const ledger = createRoute({
  getParentRoute: () => root,
  path: '/ledger',
  loader: ({ context }) => soon(context, (queries) => queries.prefetchInfiniteQuery(ledgerQuery({}))),
  component: lazyRouteComponent(() => import('../views/ledger/Ledger'), 'Ledger'),
})

export const routerWith = (queries: QueryClient) =>
  createRouter({
    routeTree: root.addChildren([
      home,
      invitation,
      shelf,
      takeIn,
      site,
      connection,
      bench,
      pages,
      audiences,
      changes,
      calendar,
      findings,
      placeholders,
      sync,
      compare,
      shared,
      sweep,
      ledger,
      setup,
      you,
    ]),
    context: { queries },
    defaultPreload: 'intent',
    defaultNotFoundComponent: NotHere,
    search: { strict: false },
  })

declare module '@tanstack/react-router' {
  interface Register {
    router: ReturnType<typeof routerWith>
  }
}
