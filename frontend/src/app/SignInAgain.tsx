import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useId } from 'react'
import { answered, client, type Schemas } from '../api/client'
import { sessionQuery } from '../api/queries'
import { sessionBack } from '../api/session'
import { Button } from '../parts/Button'
import { Input } from '../parts/Input'
import { Sheet } from '../parts/Sheet'
import { Told } from '../parts/Told'

/** Over the page of somebody whose session ended: they sign in and go on where they were. */
export function SignInAgain({ person }: { person: Schemas['PersonOut'] }) {
  const queries = useQueryClient()
  const field = useId()
  const signIn = useMutation({
    mutationFn: (password: string) =>
      answered(client.POST('/api/session', { body: { email: person.email, password } })),
    onSuccess: async (found) => {
      // One that is under way was asked by nobody.
      await queries.cancelQueries({ queryKey: sessionQuery.queryKey })
      queries.setQueryData(sessionQuery.queryKey, found)
      sessionBack()
      void queries.invalidateQueries({ predicate: (query) => query.state.status === 'error' })
    },
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
          signIn.mutate(String(new FormData(event.currentTarget).get('password')))
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
        <div className="my-4">
          <Told error={signIn.error} />
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
