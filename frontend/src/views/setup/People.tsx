import { useMutation, useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { answered, client, type Schemas } from '../../api/client'
import { useAnew } from '../../api/keys'
import { peopleQuery, signInsQuery } from '../../api/queries'
import { Asked } from '../../parts/Asked'
import { Button } from '../../parts/Button'
import { Choice } from '../../parts/Choice'
import { Input } from '../../parts/Input'
import { Mark } from '../../parts/Mark'
import { NewPassword } from '../../parts/NewPassword'
import { SignIns } from '../../parts/SignIns'
import { Told } from '../../parts/Told'
import { Trouble } from '../../parts/Trouble'
import { Invitations } from './Invitations'
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
                <span className="text-note text-ink-2">{one.role}</span>{' '}
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
            <div className="text-note text-ink-2">{one.email}</div>
            {open === one.id && <Access account={one} mine={one.email === me} />}
          </li>
        ))}
      </ul>
      {adding && <AddPerson onDone={() => setAdding(false)} />}
      {/* Not before the people, which would move it away from under the pointer. */}
      {!adding && people.isFetched && (
        <Button small className="mt-2" onClick={() => setAdding(true)}>
          Add a person
        </Button>
      )}
      {people.isFetched && <Invitations />}
    </section>
  )
}

function Access({ account, mine }: { account: Account; mine: boolean }) {
  const anew = useAnew()
  const [password, setPassword] = useState('')
  const path = { path: { person_id: account.id } }
  const signIns = useQuery(signInsQuery(account.id))
  const again = () => anew.people()
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
  const takeOff = useMutation({
    mutationFn: () => answered(client.DELETE('/api/people/{person_id}/second-factor', { params: path })),
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
        <p role="status" className="text-small">
          Given; {account.name} is signed out everywhere.
        </p>
      )}
      {account.second_factor && (
        <span className="text-small">
          Signs in with a second factor.{' '}
          <Button small tone="quiet" disabled={takeOff.isPending} onClick={() => takeOff.mutate()}>
            lost: take it off
          </Button>
        </span>
      )}
      <Told error={disable.error ?? takeOff.error ?? reset.error ?? end.error ?? signIns.error} />
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
  const anew = useAnew()
  const [body, setBody] = useState({ name: '', email: '', role: 'editor', password: '' })
  const add = useMutation({
    mutationFn: () => answered(client.POST('/api/people', { body })),
    onSuccess: async () => {
      await anew.people()
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
          <Input
            id={id}
            value={body.name}
            onChange={(event) => setBody({ ...body, name: event.target.value })}
            className="w-full"
          />
        )}
      </Asked>
      <Asked says="E-mail address">
        {(id) => (
          <Input
            id={id}
            type="email"
            value={body.email}
            onChange={(event) => setBody({ ...body, email: event.target.value })}
            className="w-full"
          />
        )}
      </Asked>
      <Asked says="Role">
        {(id) => (
          <Choice
            id={id}
            value={body.role}
            onChoose={(value) => setBody({ ...body, role: value })}
            className="w-full"
          >
            {ROLES.map((role) => (
              <option key={role}>{role}</option>
            ))}
          </Choice>
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
