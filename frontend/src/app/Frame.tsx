import { useQuery } from '@tanstack/react-query'
import { Outlet } from '@tanstack/react-router'
import { Suspense } from 'react'
import { Refused } from '../api/client'
import { lookIn, useSwitches } from '../api/inside'
import { sessionQuery } from '../api/queries'
import { Told } from '../parts/Told'
import { SignIn } from '../views/sign-in/SignIn'
import { LensStrip } from './LensStrip'
import { Rail } from './Rail'
import { useLens } from './useLens'

/** Rail, lens and the view; nothing but the sign-in for whom nobody knows. */
export function Frame() {
  const session = useQuery(sessionQuery)
  const lens = useLens()
  const switches = useSwitches()
  // Before anything below asks for something: requests go with the change that the address names.
  lookIn(lens.in)
  if (session.isPending) return null
  if (session.error instanceof Refused && session.error.problem.status === 401) return <SignIn />
  if (!session.data) return <Told error={session.error} />
  return (
    <div className="grid h-full grid-cols-[76px_minmax(0,1fr)] grid-rows-[minmax(52px,auto)_minmax(0,1fr)]">
      <Rail person={session.data} />
      <LensStrip />
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls, so the keyboard must reach it */}
      <main tabIndex={0} className="relative min-h-0 overflow-auto outline-none">
        <Suspense>
          <Outlet key={`${lens.in ?? ''} ${switches}`} />
        </Suspense>
      </main>
    </div>
  )
}
