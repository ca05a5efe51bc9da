import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { answered, client, type Schemas } from '../../api/client'
import { peopleQuery, signInsQuery } from '../../api/queries'
import { Asked, LINE } from '../../parts/Asked'
import { Button } from '../../parts/Button'
import { Mark } from '../../parts/Mark'
import { NewPassword } from '../../parts/NewPassword'
import { SignIns } from '../../parts/SignIns'
import { Told } from '../../parts/Told'
import { Trouble } from '../../parts/Trouble'
import { ROLES, Roles } from './Roles'

type Account = Schemas['AccountOut']

/** Who may sign in; access is given, taken away, and given again here. */
export function People({ me }: { me: string }) {
  const people = useQuery(peopleQuery)
  const [open, setOpen] = useState<string | null>(null)
  const [adding, setAdding] = useState(false)
  return (
    <section aria-labelledby="people" className="mt-6">
      <h2 id="people">People</h2>
      <Trouble query={people} />
      <ul>
        {people.data?.map((one) => (
          <li key={one.id} className="border-t border-hair py-1">
            <div className="flex items-baseline justify-between gap-2">
              <span>
                <span className="font-semibold">{one.name}</span>{' '}
                <span className="text-[12px] text-ink-2">{one.role}</span>{' '}
                {one.disabled_at && <Mark kind="stop">kept out</Mark>}
              </span>
              <Button
                small
                aria-expanded={open === one.id}
                aria-label={`Access of ${one.name}`}
                onClick={() => setOpen(open === one.id ? null : one.id)}
              >
                Access
              </Button>
            </div>
            <div className="text-[12px] text-ink-2">{one.email}</div>
            {open === one.id && <Access account={one} mine={one.email === me} />}
          </li>
        ))}
      </ul>
      {adding ? (
        <AddPerson onDone={() => setAdding(false)} />
      ) : (
        <Button small className="mt-2" onClick={() => setAdding(true)}>
          Add a person
        </Button>
      )}
    </section>
  )
}

function Access({ account, mine }: { account: Account; mine: boolean }) {
  const queries = useQueryClient()
  const [password, setPassword] = useState('')
  const path = { path: { person_id: account.id } }
  const signIns = useQuery(signInsQuery(account.id))
  const again = () =>
    Promise.all([
      queries.invalidateQueries({ queryKey: peopleQuery.queryKey }),
      queries.invalidateQueries({ queryKey: ['sign-ins'] }),
    ])
  const disable = useMutation({
    mutationFn: (disabled: boolean) =>
      answered(client.PUT('/api/people/{person_id}/disabled', { params: path, body: { disabled } })),
    onSettled: again,
  })
  const reset = useMutation({
    mutationFn: () =>
      answered(client.PUT('/api/people/{person_id}/password', { params: path, body: { password } })),
    onSuccess: () => setPassword(''),
    onSettled: again,
  })
  const end = useMutation({
    mutationFn: (sign_in_id: string) =>
      answered(
        client.DELETE('/api/people/{person_id}/sign-ins/{sign_in_id}', {
          params: { path: { person_id: account.id, sign_in_id } },
        }),
      ),
    onSettled: again,
  })
  return (
    <div className="my-2 grid gap-2 border-l-4 border-wood bg-plate px-3 py-2">
      <SignIns found={signIns.data ?? []} pending={end.isPending} onEnd={end.mutate} />
      <form
        className="flex flex-wrap items-end gap-2"
        onSubmit={(event) => {
          event.preventDefault()
          reset.mutate()
        }}
      >
        <NewPassword value={password} onChange={setPassword} />
        <Button small type="submit" disabled={!password || reset.isPending}>
          Give this password
        </Button>
      </form>
      {reset.isSuccess && (
        <p role="status" className="text-[13px]">
          Given; {account.name} is signed out everywhere.
        </p>
      )}
      <Told error={disable.error ?? reset.error ?? end.error ?? signIns.error} />
      {!mine && <Roles account={account} onDone={again} />}
      {!mine && (
        <span>
          <Button
            small
            disabled={disable.isPending}
            onClick={() => disable.mutate(account.disabled_at === null)}
          >
            {account.disabled_at ? `Let ${account.name} in again` : `Keep ${account.name} out`}
          </Button>
        </span>
      )}
    </div>
  )
}

function AddPerson({ onDone }: { onDone: () => void }) {
  const queries = useQueryClient()
  const [body, setBody] = useState({ name: '', email: '', role: 'editor', password: '' })
  const add = useMutation({
    mutationFn: () => answered(client.POST('/api/people', { body })),
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: peopleQuery.queryKey })
      onDone()
    },
  })
  return (
    <form
      className="my-2 grid gap-2 border-l-4 border-wood bg-plate px-3 py-2"
      onSubmit={(event) => {
        event.preventDefault()
        add.mutate()
      }}
    >
      <Asked says="Name">
        {(id) => (
          <input
            id={id}
            value={body.name}
            onChange={(event) => setBody({ ...body, name: event.target.value })}
            className={LINE}
          />
        )}
      </Asked>
      <Asked says="E-mail address">
        {(id) => (
          <input
            id={id}
            type="email"
            value={body.email}
            onChange={(event) => setBody({ ...body, email: event.target.value })}
            className={LINE}
          />
        )}
      </Asked>
      <Asked says="Role">
        {(id) => (
          <select
            id={id}
            value={body.role}
            onChange={(event) => setBody({ ...body, role: event.target.value })}
            className={LINE}
          >
            {ROLES.map((role) => (
              <option key={role}>{role}</option>
            ))}
          </select>
        )}
      </Asked>
      <NewPassword value={body.password} onChange={(password) => setBody({ ...body, password })} />
      <Told error={add.error} />
      <span className="flex gap-2">
        <Button small type="submit" disabled={!body.name || !body.email || !body.password || add.isPending}>
          Add
        </Button>
        <Button small tone="quiet" onClick={onDone}>
          leave it
        </Button>
      </span>
    </form>
  )
}
