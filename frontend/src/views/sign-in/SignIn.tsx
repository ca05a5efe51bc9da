import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useId, useState } from 'react'
import { answered, client, isRefused } from '../../api/client'
import { beginElsewhere } from '../../api/elsewhere'
import { elsewhereQuery, sessionQuery } from '../../api/queries'
import { Button } from '../../parts/Button'
import { CodeField } from '../../parts/CodeField'
import { Input } from '../../parts/Input'
import { Told } from '../../parts/Told'
import { useTitle } from '../../parts/useTitle'

export function SignIn() {
  useTitle('Sign in')
  const queries = useQueryClient()
  const [email, password] = [useId(), useId()]
  const signIn = useMutation({
    mutationFn: (body: { email: string; password: string; code: string }) =>
      answered(client.POST('/api/session', { body })),
    onSuccess: (person) => queries.setQueryData(sessionQuery.queryKey, person),
    onError: (error) => setWantsCode((wanted) => wanted || isRefused(error, 'second-factor')),
  })
  const [wantsCode, setWantsCode] = useState(false)
  const provider = useQuery(elsewhereQuery).data
  const { name: elsewhere, refused } = provider ?? {}
  return (
    <main className="flex h-full flex-col items-center justify-center px-4">
      <form
        className="relative w-full max-w-[420px] rounded-sign border-[1.5px] border-ink bg-plate px-9 pt-8 pb-7 before:absolute before:top-3 before:left-3 before:size-1.5 before:rounded-full before:bg-hair after:absolute after:top-3 after:right-3 after:size-1.5 after:rounded-full after:bg-hair"
        onSubmit={(event) => {
          event.preventDefault()
          const form = new FormData(event.currentTarget)
          const [email, password, code] = ['email', 'password', 'code'].map((one) =>
            String(form.get(one) ?? ''),
          )
          signIn.mutate({ email: email ?? '', password: password ?? '', code: code ?? '' })
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
        {wantsCode && <CodeField />}
        <div className="my-5">
          {isRefused(signIn.error, 'second-factor') ? (
            <p className="text-small text-ink-2">
              What it shows now, or one of your spare codes where you have lost it.
            </p>
          ) : (
            <>
              <Told error={signIn.error} />
              {refused && !signIn.error && (
                <p role="alert" className="border-l-4 border-signal bg-signal-ground px-3 py-2 text-body">
                  {refused}
                </p>
              )}
            </>
          )}
        </div>
        <Button type="submit" tone="go" disabled={signIn.isPending} className="w-full py-2">
          Sign in
        </Button>
        {elsewhere && (
          <p className="mt-4 text-center">
            <a href={beginElsewhere()} className="font-semibold underline">
              Sign in with {elsewhere}
            </a>
          </p>
        )}
      </form>
      <div className="plank w-full max-w-[560px]" />
    </main>
  )
}
