import { Link, useParams } from '@tanstack/react-router'
import { useEffect, useState } from 'react'
import { useAnew } from '../api/keys'
import { whenBack } from '../api/session'
import { useLens } from '../lens/useLens'
import { saveLeftover } from '../outline/saver'
import { allUnsaved, whenUnsavedChanges } from '../outline/unsaved'
import { Mark } from '../parts/Mark'

const AGAIN_MS = 15_000

/** What the person typed into menus that are not on the bench now, and is not saved yet: it is, once the line is back. */
export function NotSavedYet({ person }: { person: string }) {
  const lens = useLens()
  const anew = useAnew()
  const { site, menu } = useParams({ strict: false }) as { site?: string; menu?: string }
  const [kept, setKept] = useState(() => allUnsaved(person))
  useEffect(() => {
    const read = () => setKept(allUnsaved(person))
    read()
    return whenUnsavedChanges(read)
  }, [person])
  const left = kept.filter((one) => one.site !== site || one.menu !== menu)
  const which = left.map((one) => `${one.site}/${one.menu}`).join(' ')
  useEffect(() => {
    if (!which) return
    const save = async () => {
      for (const one of allUnsaved(person))
        if (which.split(' ').includes(`${one.site}/${one.menu}`) && (await saveLeftover(person, one)))
          void anew.site(one.site)
    }
    void save()
    const timer = window.setInterval(() => void save(), AGAIN_MS)
    const stop = whenBack(() => void save())
    return () => {
      window.clearInterval(timer)
      stop()
    }
  }, [person, which, anew])
  if (left.length === 0) return null
  return (
    <p
      role="status"
      className="flex flex-wrap gap-x-4 border-b border-hair bg-signal-ground px-[18px] py-1.5"
    >
      {left.map((one) => (
        <span key={`${one.site}/${one.menu}`} className="flex items-baseline gap-2">
          <Mark kind="waiting">
            {one.edits === 1 ? '1 edit' : `${one.edits || 'Some'} edits`} of {one.document.name} of{' '}
            {one.siteName} {one.edits === 1 ? 'is' : 'are'} not saved yet
          </Mark>
          <Link
            to="/sites/$site/menus/$menu"
            params={{ site: one.site, menu: one.menu }}
            search={{ ...lens, in: one.home ?? undefined }}
            className="underline"
          >
            Open it
          </Link>
        </span>
      ))}
    </p>
  )
}
