import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Dialog } from 'radix-ui'
import { useId } from 'react'
import { answered, client, type Schemas } from '../api/client'
import { sessionQuery } from '../api/queries'
import { sessionBack } from '../api/session'
import { Button } from '../parts/Button'
import { Input } from '../parts/Input'
import { Told } from '../parts/Told'
import { useWayBack } from '../parts/useWayBack'

/** Over the page of somebody whose session ended: they sign in and go on where they were. */
export function SignInAgain({ person }: { person: Schemas['PersonOut'] }) {
  const queries = useQueryClient()
  const field = useId()
  const goBack = useWayBack()
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
    <Dialog.Root open>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-[60] bg-ink/40" />
        <Dialog.Content
          onEscapeKeyDown={(event) => event.preventDefault()}
          onInteractOutside={(event) => event.preventDefault()}
          onCloseAutoFocus={goBack}
          className="fixed top-1/2 left-1/2 z-[70] w-[420px] max-w-[94vw] -translate-x-1/2 -translate-y-1/2 rounded-sign border-[1.5px] border-ink bg-plate px-7 py-6"
        >
          <Dialog.Title className="text-head font-bold">You are signed out</Dialog.Title>
          <Dialog.Description className="mt-1 mb-4 text-ink-2">
            What you typed is still here. Sign in as {person.name}, and go on where you were.
          </Dialog.Description>
          <form
            onSubmit={(event) => {
              event.preventDefault()
              signIn.mutate(String(new FormData(event.currentTarget).get('password')))
            }}
          >
            <Input type="hidden" name="email" autoComplete="username" value={person.email} readOnly />
            <label htmlFor={field} className="block text-ink-2">
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
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  )
}
