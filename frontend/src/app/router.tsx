import {
  createRootRoute,
  createRoute,
  createRouter,
  lazyRouteComponent,
  redirect,
} from '@tanstack/react-router'
import { Frame } from './Frame'
import { readLens } from './lens'
import { NotHere } from './NotHere'

const root = createRootRoute({ validateSearch: readLens, component: Frame })

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
  component: lazyRouteComponent(() => import('../views/shelf/Shelf'), 'Shelf'),
})
const takeIn = createRoute({
  getParentRoute: () => root,
  path: '/take-in',
  component: lazyRouteComponent(() => import('../views/take-in/TakeIn'), 'TakeIn'),
})
const site = createRoute({
  getParentRoute: () => root,
  path: '/sites/$site',
  component: lazyRouteComponent(() => import('../views/site/Site'), 'Site'),
})
const bench = createRoute({
  getParentRoute: () => root,
  path: '/sites/$site/menus/$menu',
  component: lazyRouteComponent(() => import('../views/bench/Bench'), 'Bench'),
})
const pages = createRoute({
  getParentRoute: () => root,
  path: '/sites/$site/pages',
  component: lazyRouteComponent(() => import('../views/pages/Pages'), 'Pages'),
})
const audiences = createRoute({
  getParentRoute: () => root,
  path: '/sites/$site/audiences/$location',
  component: lazyRouteComponent(() => import('../views/audiences/Audiences'), 'Audiences'),
})
const setup = createRoute({
  getParentRoute: () => root,
  path: '/setup',
  component: lazyRouteComponent(() => import('../views/setup/Setup'), 'Setup'),
})
const you = createRoute({
  getParentRoute: () => root,
  path: '/you',
  component: lazyRouteComponent(() => import('../views/you/You'), 'You'),
})
const ledger = createRoute({
  getParentRoute: () => root,
  path: '/ledger',
  component: lazyRouteComponent(() => import('../views/ledger/Ledger'), 'Ledger'),
})

export const router = createRouter({
  routeTree: root.addChildren([home, shelf, takeIn, site, bench, pages, audiences, ledger, setup, you]),
  defaultPreload: 'intent',
  defaultNotFoundComponent: NotHere,
  search: { strict: false },
})

declare module '@tanstack/react-router' {
  interface Register {
    router: typeof router
  }
}
