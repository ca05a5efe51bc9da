import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useEffect, useId, useState } from 'react'
import { answered, client, isRefused, type Schemas } from '../api/client'
import { elsewhereQuery, sessionQuery } from '../api/queries'
import { sessionBack } from '../api/session'
import { Button } from '../parts/Button'
import { CodeField } from '../parts/CodeField'
import { Input } from '../parts/Input'
import { Sheet } from '../parts/Sheet'
import { Told } from '../parts/Told'

/** Over the page of somebody whose session ended: they sign in and go on where they were. */
export function SignInAgain({ person }: { person: Schemas['PersonOut'] }) {
  const queries = useQueryClient()
  const field = useId()
  const back = async (found: Schemas['PersonOut']) => {
    // One that is under way was asked by nobody.
    await queries.cancelQueries({ queryKey: sessionQuery.queryKey })
    queries.setQueryData(sessionQuery.queryKey, found)
    sessionBack()
    void queries.invalidateQueries({ predicate: (query) => query.state.status === 'error' })
  }
  const signIn = useMutation({
    mutationFn: ({ password, code }: { password: string; code: string }) =>
      answered(client.POST('/api/session', { body: { email: person.email, password, code } })),
    onSuccess: back,
    onError: (error) => setWantsCode((wanted) => wanted || isRefused(error, 'second-factor')),
  })
  const [wantsCode, setWantsCode] = useState(false)
  const elsewhere = useQuery(elsewhereQuery).data?.name
  useEffect(() => {
    // They may have signed in by the provider meanwhile, in another tab.
    const look = async () => {
      const { data } = await client.GET('/api/session')
      if (data?.id === person.id) await back(data)
    }
    window.addEventListener('focus', look)
    return () => window.removeEventListener('focus', look)
  })
  return (
    <Sheet
      title="You are signed out"
      className="w-[420px] px-7 py-6"
      onOpen={() => undefined}
      stays="for all"
      says={`What you typed is still here. Sign in as ${person.name}, and go on where you were.`}
    >
      <form
        onSubmit={(event) => {
          event.preventDefault()
          const form = new FormData(event.currentTarget)
          signIn.mutate({ password: String(form.get('password')), code: String(form.get('code') ?? '') })
        }}
      >
        <Input type="hidden" name="email" autoComplete="username" value={person.email} readOnly />
        <label htmlFor={field} className="mb-1 block text-ink-2">
          Password
        </label>
        <Input
          id={field}
          name="password"
          type="password"
          autoComplete="current-password"
          required
          className="w-full px-0.5 py-1 text-head"
        />
        {wantsCode && <CodeField />}
        <div className="my-4">
          {!isRefused(signIn.error, 'second-factor') && <Told error={signIn.error} />}
          {elsewhere && (
            <a
              href="/api/session/elsewhere/begin?back=/you"
              target="_blank"
              rel="noreferrer"
              className="text-small underline"
            >
              with {elsewhere}, in another tab
            </a>
          )}
        </div>
        <div className="flex items-center justify-between gap-3">
          <Button tone="quiet" onClick={() => window.location.assign('/')}>
            I am somebody else
          </Button>
          <Button type="submit" tone="go" disabled={signIn.isPending}>
            Sign in and go on
          </Button>
        </div>
      </form>
    </Sheet>
  )
}
