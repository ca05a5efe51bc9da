import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useNavigate } from '@tanstack/react-router'
import { useState } from 'react'
import { answered, client } from '../../api/client'
import { elsewhereQuery, invitationQuery, sessionQuery } from '../../api/queries'
import { Asked } from '../../parts/Asked'
import { Button } from '../../parts/Button'
import { Input } from '../../parts/Input'
import { NewPassword } from '../../parts/NewPassword'
import { Told } from '../../parts/Told'
import { when } from '../../parts/times'
import { useTitle } from '../../parts/useTitle'

/** Somebody was sent a link: they make their own account, and are in. */
export function Invited({ token }: { token: string }) {
  useTitle('Invitation')
  const queries = useQueryClient()
  const navigate = useNavigate()
  const invited = useQuery({ ...invitationQuery(token), retry: false })
  const elsewhere = useQuery(elsewhereQuery).data?.name
  const [name, setName] = useState<string>()
  const [password, setPassword] = useState('')
  const called = name ?? invited.data?.name ?? ''
  const take = useMutation({
    mutationFn: async () => {
      const made = await answered(
        client.POST('/api/invitations/{token}', {
          params: { path: { token } },
          body: { name: called, password },
        }),
      )
      return answered(client.POST('/api/session', { body: { email: made.email, password, code: '' } }))
    },
    onSuccess: async (person) => {
      queries.setQueryData(sessionQuery.queryKey, person)
      await navigate({ to: '/shelf', search: { device: 'desktop' } })
    },
  })
  return (
    <main className="flex h-full flex-col items-center justify-center px-4">
      <div className="relative w-full max-w-[420px] rounded-sign border-[1.5px] border-ink bg-plate px-9 pt-8 pb-7 before:absolute before:top-3 before:left-3 before:size-1.5 before:rounded-full before:bg-hair after:absolute after:top-3 after:right-3 after:size-1.5 after:rounded-full after:bg-hair">
        <h1 className="text-title">Sign Shelf</h1>
        <Told error={invited.error} />
        {invited.data && (
          <form
            className="grid gap-4"
            onSubmit={(event) => {
              event.preventDefault()
              take.mutate()
            }}
          >
            <p className="text-ink-2">
              {invited.data.by} invites you, {invited.data.email}, to work here as {invited.data.role}. Until{' '}
              {when(invited.data.until)}.
            </p>
            <Asked says="Your name">
              {(id) => (
                <Input
                  id={id}
                  autoComplete="name"
                  value={called}
                  onChange={(event) => setName(event.target.value)}
                  className="w-full"
                />
              )}
            </Asked>
            <Input type="hidden" name="email" autoComplete="username" value={invited.data.email} readOnly />
            <NewPassword value={password} onChange={setPassword} />
            <Told error={take.error} />
            <Button
              type="submit"
              tone="go"
              disabled={!called || !password || take.isPending}
              className="py-2"
            >
              Come in
            </Button>
            {elsewhere && (
              <a href="/api/session/elsewhere/begin" className="text-center font-semibold underline">
                Come in with {elsewhere}
              </a>
            )}
          </form>
        )}
      </div>
      <div className="plank w-full max-w-[560px]" />
    </main>
  )
}
