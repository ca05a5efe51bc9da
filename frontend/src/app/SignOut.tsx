import { useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { client } from '../api/client'
import { saveAll } from '../outline/saver'
import { allUnsaved } from '../outline/unsaved'
import { Question } from '../parts/Question'

/** Signs out once everything is saved; asks first where something cannot be. */
export function SignOut({ person, className }: { person: string; className: string }) {
  const queries = useQueryClient()
  const [left, setLeft] = useState<string[]>([])
  const go = async () => {
    await client.DELETE('/api/session')
    queries.clear()
    window.location.assign('/')
  }
  const ask = async () => {
    await saveAll()
    const names = allUnsaved(person).map((one) => `${one.document.name} of ${one.siteName}`)
    setLeft(names)
    if (names.length === 0) await go()
  }
  return (
    <>
      <button type="button" onClick={() => void ask()} className={className}>
        Sign out
      </button>
      {left.length > 0 && (
        <Question
          title="Not everything is saved yet"
          go="Sign out all the same"
          stay="Stay"
          onGo={() => void go()}
          onStay={() => setLeft([])}
        >
          What you typed in {left.join(' and ')} could not be saved. This browser keeps it for you until you
          sign in here again.
        </Question>
      )}
    </>
  )
}
