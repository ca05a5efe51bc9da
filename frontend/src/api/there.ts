/** Who is in a change with one, as the server tells it; and where one is oneself. */
import { useQueryClient } from '@tanstack/react-query'
import { startTransition, useEffect, useMemo, useRef, useState } from 'react'
import { client, type Schemas } from './client'
import { keys } from './keys'
import { pageOwner } from './session'

export type Somebody = Schemas['SomebodyOut']

const PAGE = crypto.randomUUID()
const SAID_AGAIN_MS = 20_000
/** Whoever runs over line after line is not followed until they rest at one. */
const REST_MS = 400

interface Where {
  site?: string
  menu?: string
  item?: string
  /** What one is asked to choose about: what was typed here met what somebody saved. */
  meets?: readonly Meets[]
}

type Meets = Schemas['MeetsOut']
/** As many as are told to others at once. */
const MOST_MEETS = 20
const NOTHING: readonly Meets[] = []

const NOBODY: readonly Somebody[] = []

function useVisible(): boolean {
  const [visible, setVisible] = useState(!document.hidden)
  useEffect(() => {
    const told = () => setVisible(!document.hidden)
    document.addEventListener('visibilitychange', told)
    return () => document.removeEventListener('visibilitychange', told)
  }, [])
  return visible
}

/** The others in the change, each page of theirs. While this page is in sight, and the change is named. */
export function useThere(
  change: string | undefined,
  { site = '', menu = '', item = '', meets = NOTHING }: Where,
): readonly Somebody[] {
  const queries = useQueryClient()
  const visible = useVisible()
  const [people, setPeople] = useState(NOBODY)
  const at = visible ? change : undefined
  useEffect(() => {
    if (!at) return
    const stream = new EventSource(`/api/there/${at}`)
    let heads: Record<string, string> | null = null
    stream.addEventListener('there', (told) => {
      const said = JSON.parse((told as MessageEvent<string>).data) as Schemas['ThereOut']
      const others = said.people.filter((one) => one.person !== pageOwner())
      startTransition(() => setPeople(others))
      const moved = Object.keys(said.heads).filter((key) => heads && heads[key] !== said.heads[key])
      heads = said.heads
      // Where nobody else is, it was oneself who saved.
      if (others.length > 0)
        for (const key of moved) void queries.invalidateQueries({ queryKey: keys.site(key, 'bench') })
      if (moved.length > 0) void queries.invalidateQueries({ queryKey: keys.shelf('changes', at) })
    })
    const leave = () => {
      const gone = new Blob([JSON.stringify({ page: PAGE })], { type: 'application/json' })
      navigator.sendBeacon(`/api/there/${at}/gone`, gone)
    }
    window.addEventListener('pagehide', leave)
    return () => {
      window.removeEventListener('pagehide', leave)
      stream.close()
      setPeople(NOBODY)
      leave()
    }
  }, [at, queries])
  const first = useRef(true)
  useEffect(() => {
    if (!at) return
    const say = () =>
      void client
        .PUT('/api/there/{change}', {
          params: { path: { change: at } },
          body: { page: PAGE, site, menu, item, meets: meets.slice(0, MOST_MEETS) },
        })
        .catch(() => undefined)
    const begun = window.setTimeout(say, first.current ? 0 : REST_MS)
    first.current = false
    const again = window.setInterval(say, SAID_AGAIN_MS)
    return () => {
      window.clearTimeout(begun)
      window.clearInterval(again)
    }
  }, [at, site, menu, item, meets])
  return people
}

/** By the item: who of these is on it in this menu. */
export function useOnLines(
  people: readonly Somebody[],
  site: string,
  menu: string,
): ReadonlyMap<string, string> {
  return useMemo(() => {
    const names = new Map<string, string>()
    for (const one of people)
      if (one.site === site && one.menu === menu && one.item) {
        const others = names.get(one.item)
        names.set(one.item, others ? `${others}, ${one.name}` : one.name)
      }
    return names
  }, [people, site, menu])
}
