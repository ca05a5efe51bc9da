import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useId } from 'react'
import { answered, client } from '../../api/client'
import { sessionQuery } from '../../api/queries'
import { Button } from '../../parts/Button'
import { Input } from '../../parts/Input'
import { Told } from '../../parts/Told'
import { useTitle } from '../../parts/useTitle'

export function SignIn() {
  useTitle('Sign in')
  const queries = useQueryClient()
  const [email, password] = [useId(), useId()]
  const signIn = useMutation({
    mutationFn: (body: { email: string; password: string }) =>
      answered(client.POST('/api/session', { body })),
    onSuccess: (person) => queries.setQueryData(sessionQuery.queryKey, person),
  })
  return (
    <main className="flex h-full flex-col items-center justify-center px-4">
      <form
        className="relative w-full max-w-[420px] rounded-sign border-[1.5px] border-ink bg-plate px-9 pt-8 pb-7 before:absolute before:top-3 before:left-3 before:size-1.5 before:rounded-full before:bg-hair after:absolute after:top-3 after:right-3 after:size-1.5 after:rounded-full after:bg-hair"
        onSubmit={(event) => {
          event.preventDefault()
          const form = new FormData(event.currentTarget)
          signIn.mutate({ email: String(form.get('email')), password: String(form.get('password')) })
        }}
      >
        <h1 className="text-title">Sign Shelf</h1>
        <p className="mb-6 text-ink-2">Every menu of every client, on one shelf.</p>
        <label htmlFor={email} className="block text-ink-2">
          E-mail address
        </label>
        <Input
          autoFocus
          id={email}
          name="email"
          type="email"
          autoComplete="username"
          required
          className="w-full"
        />
        <label htmlFor={password} className="mt-4 block text-ink-2">
          Password
        </label>
        <Input
          id={password}
          name="password"
          type="password"
          autoComplete="current-password"
          required
          className="w-full"
        />
        <div className="my-5">
          <Told error={signIn.error} />
        </div>
        <Button type="submit" tone="go" disabled={signIn.isPending} className="w-full py-2">
          Sign in
        </Button>
      </form>
      <div className="plank w-full max-w-[560px]" />
    </main>
  )
}
