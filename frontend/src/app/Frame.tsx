import { useQuery } from '@tanstack/react-query'
import { Outlet, useRouterState } from '@tanstack/react-router'
import { lazy, Suspense, useEffect, useRef, useState } from 'react'
import { Refused, type Schemas } from '../api/client'
import { lookIn, useSwitches } from '../api/inside'
import { sessionQuery } from '../api/queries'
import { belongsTo, useSessionEnded } from '../api/session'
import { useLens } from '../lens/useLens'
import { Trouble } from '../parts/Trouble'
import { useReadAhead } from './ahead'
import { Fingerpost } from './Fingerpost'
import { LensStrip } from './LensStrip'
import { NotSavedYet } from './NotSavedYet'
import { SignInAgain } from './SignInAgain'

const SignIn = lazy(() => import('../views/sign-in/SignIn').then((one) => ({ default: one.SignIn })))

const Invited = lazy(() => import('../views/sign-in/Invited').then((one) => ({ default: one.Invited })))
const INVITATION = /^\/invitation\/([^/]+)$/

/** Whoever signed in here first: somebody who signed in since, in another tab, is not let into their page. */
function useWhosePage(person: Schemas['PersonOut'] | undefined): Schemas['PersonOut'] | undefined {
  const first = useRef(person)
  if (!first.current || first.current.id === person?.id) first.current = person ?? first.current
  if (first.current) belongsTo(first.current.id)
  return first.current
}

const REST_MS = 800

/** True once it is so and nobody is typing: what is typed just now belongs where it is typed. */
function useOnceKeysRest(so: boolean): boolean {
  const [rested, setRested] = useState(false)
  useEffect(() => {
    if (!so) {
      setRested(false)
      return
    }
    let timer = 0
    const wait = () => {
      window.clearTimeout(timer)
      timer = window.setTimeout(() => setRested(true), REST_MS)
    }
    wait()
    window.addEventListener('keydown', wait, true)
    return () => {
      window.clearTimeout(timer)
      window.removeEventListener('keydown', wait, true)
    }
  }, [so])
  return so && rested
}

const VIEW = 'relative min-h-0 overflow-auto outline-none print:overflow-visible'

/** Fingerpost, lens and the view; nothing but the sign-in for whom nobody knows. */
export function Frame() {
  // Who has just been refused is not asked about again.
  const session = useQuery({ ...sessionQuery, retryOnMount: false })
  const lens = useLens()
  const switches = useSwitches()
  // Before anything below asks for something: requests go with the change that the address names.
  lookIn(lens.in)
  const ended = useSessionEnded()
  const nobody = session.error instanceof Refused && session.error.problem.status === 401
  const person = useWhosePage(session.data)
  const away = ended || nobody || (session.data !== undefined && session.data.id !== person?.id)
  const asked = useOnceKeysRest(away)
  useReadAhead(person !== undefined && !away)
  const invitation = useRouterState({ select: (state) => INVITATION.exec(state.location.pathname)?.[1] })
  if (session.isPending) return null
  if (invitation)
    return (
      <Suspense>
        <Invited token={invitation} />
      </Suspense>
    )
  if (!person)
    return nobody ? (
      <Suspense>
        <SignIn />
      </Suspense>
    ) : (
      <Trouble query={session} />
    )
  return (
    <div className="grid h-full print:block print:h-auto grid-cols-[104px_minmax(0,1fr)] grid-rows-[minmax(46px,auto)_minmax(0,1fr)] max-sm:grid-cols-[minmax(0,1fr)] max-sm:grid-rows-[auto_auto_minmax(0,1fr)]">
      <button
        type="button"
        onClick={() => document.getElementById('view')?.focus()}
        className="absolute -top-20 left-2 z-50 bg-ink px-3 py-1 text-paper focus:top-2 print:hidden"
      >
        To the view
      </button>
      <Fingerpost person={person} />
      <LensStrip />
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls, so the keyboard must reach it */}
      <main id="view" tabIndex={0} className={VIEW}>
        <NotSavedYet person={person.id} />
        <Suspense>
          <Outlet key={`${lens.in ?? ''} ${switches}`} />
        </Suspense>
      </main>
      {asked && <SignInAgain person={person} />}
    </div>
  )
}
