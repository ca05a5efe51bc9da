import { useQuery } from '@tanstack/react-query'
import { Link, useRouterState } from '@tanstack/react-router'
import type { Schemas } from '../api/client'
import { findingCountsQuery, openChangesQuery } from '../api/queries'
import { useLens } from '../lens/useLens'
import { Menu, MenuAct } from '../parts/Menu'
import { SignOut } from './SignOut'

const VIEWS = [
  { to: '/shelf', says: 'Shelf', also: ['/sites/', '/take-in'] },
  { to: '/changes', says: 'Changes', also: [] },
  { to: '/calendar', says: 'Calendar', also: [] },
  { to: '/findings', says: 'Findings', also: ['/placeholders'] },
  { to: '/sync', says: 'Sync', also: ['/compare', '/shared'] },
  { to: '/sweep', says: 'Sweep', also: [] },
  { to: '/ledger', says: 'Ledger', also: [] },
  { to: '/setup', says: 'Setup', also: [] },
] as const

/** Two planks with a sign on each: the shelf's own mark. */
function Planks() {
  return (
    <svg viewBox="0 0 38 30" className="w-[34px] flex-none" aria-hidden="true">
      <path d="M7 8V2h24v6M4 23v-6h20v6" fill="none" stroke="currentColor" strokeWidth="1.5" />
      <path d="M0 10.500h38M0 25.500h38" stroke="var(--wood)" strokeWidth="3" />
    </svg>
  )
}

/** The way to the views: a thin post with arms that point into the page. On a narrow screen one arm that unfolds. */
export function Fingerpost({ person }: { person: Schemas['PersonOut'] }) {
  const lens = useLens()
  const path = useRouterState({ select: (state) => state.location.pathname })
  const at = VIEWS.find((one) => [one.to, ...one.also].some((way) => path.startsWith(way)))?.to
  const counts = useQuery(findingCountsQuery).data ?? {}
  const stops = Object.values(counts).reduce((sum, one) => sum + (one.stop ?? 0), 0)
  const mine = (useQuery(openChangesQuery).data ?? []).filter((one) => one.waits_for_me).length
  const signOut = <SignOut person={person.id} className="hover:text-ink hover:underline" />
  return (
    <nav
      aria-label="Sign Shelf"
      className="relative print:hidden row-span-2 flex flex-col gap-[7px] pt-2.5 pb-3 pl-3 max-sm:row-span-1 max-sm:flex-row max-sm:items-center max-sm:gap-3 max-sm:border-b max-sm:border-hair max-sm:py-1"
    >
      <span
        aria-hidden="true"
        className="absolute top-[46px] bottom-0 left-[22px] w-[7px] rounded-t-xs bg-linear-to-r from-wood-2 to-wood max-sm:hidden"
      />
      <span className="mb-2 ml-0.5 max-sm:mb-0">
        <Planks />
      </span>
      {VIEWS.map((one) => (
        <Link
          key={one.to}
          to={one.to}
          search={lens}
          data-ahead
          aria-current={one.to === at ? 'page' : undefined}
          className="arm max-sm:hidden"
        >
          {one.says}
          {one.to === '/findings' && <Count many={stops} says="stop a release" />}
          {one.to === '/changes' && <Count many={mine} says="wait for you" />}
        </Link>
      ))}
      <Menu
        align="start"
        className="grid gap-[7px] p-2"
        button={
          <button type="button" className="arm sm:hidden" aria-current="page" aria-label="Where to go">
            {VIEWS.find((one) => one.to === at)?.says ?? 'You'}
          </button>
        }
      >
        {VIEWS.map((one) => (
          <MenuAct key={one.to} asChild className="">
            <Link to={one.to} search={lens} className="arm" aria-current={one.to === at ? 'page' : undefined}>
              {one.says}
            </Link>
          </MenuAct>
        ))}
      </Menu>
      <span className="relative mt-auto flex flex-col items-start gap-1 pl-6 text-small text-ink-2 max-sm:mt-0 max-sm:ml-auto max-sm:flex-row max-sm:gap-3 max-sm:pr-3 max-sm:pl-0">
        <Link
          to="/you"
          search={lens}
          className="max-w-[76px] truncate hover:text-ink hover:underline aria-[current=page]:font-bold aria-[current=page]:text-ink max-sm:max-w-[140px]"
          title={`${person.name}, ${person.role}`}
        >
          {person.name}
        </Link>
        {signOut}
      </span>
    </nav>
  )
}

/** How much wants a hand. */
function Count({ many, says }: { many: number; says: string }) {
  if (many === 0) return null
  return (
    <>
      <b aria-hidden="true" className="ml-1.5 text-signal in-aria-[current=page]:text-inherit">
        {many}
      </b>
      <span className="sr-only">
        , {many} {says}
      </span>
    </>
  )
}
