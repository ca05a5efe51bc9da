import { useMutation, useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { answered, client } from '../../api/client'
import { useAnew } from '../../api/keys'
import { invitationsQuery } from '../../api/queries'
import { Asked } from '../../parts/Asked'
import { Button } from '../../parts/Button'
import { Choice } from '../../parts/Choice'
import { Input } from '../../parts/Input'
import { Once } from '../../parts/Once'
import { Told } from '../../parts/Told'
import { when } from '../../parts/times'
import { ROLES } from './Roles'

const NOBODY = { name: '', email: '', role: 'editor' }

/** Links by which people make their own accounts: made, and those that nobody has taken up yet. */
export function Invitations() {
  const anew = useAnew()
  const open = useQuery(invitationsQuery)
  const [asking, setAsking] = useState(false)
  const [body, setBody] = useState(NOBODY)
  const invite = useMutation({
    mutationFn: () => answered(client.POST('/api/people/invitations', { body })),
    onSuccess: async () => {
      setBody(NOBODY)
      setAsking(false)
      await anew.people()
    },
  })
  const withdraw = useMutation({
    mutationFn: (invitation: string) =>
      answered(client.DELETE('/api/people/invitations/{invitation}', { params: { path: { invitation } } })),
    onSettled: () => anew.people(),
  })
  return (
    <div className="mt-2">
      <ul aria-label="Invitations">
        {open.data?.map((one) => (
          <li
            key={one.id}
            className="flex flex-wrap items-baseline gap-x-2 border-t border-hair py-1 text-small"
          >
            <b>{one.name}</b> {one.role}, invited until {when(one.until)}
            <Button small tone="quiet" disabled={withdraw.isPending} onClick={() => withdraw.mutate(one.id)}>
              withdraw it
            </Button>
          </li>
        ))}
      </ul>
      <Told error={open.error ?? withdraw.error} />
      {invite.data && !asking && <Once says="The link, to be sent to them." secret={invite.data.address} />}
      {asking ? (
        <form
          aria-label="Invite somebody"
          className="my-2 grid gap-2 border-l-4 border-wood bg-plate px-3 py-2"
          onSubmit={(event) => {
            event.preventDefault()
            invite.mutate()
          }}
        >
          {(
            [
              ['Name', 'name'],
              ['E-mail address', 'email'],
            ] as const
          ).map(([says, field]) => (
            <Asked key={field} says={says}>
              {(id) => (
                <Input
                  id={id}
                  type={field === 'email' ? 'email' : 'text'}
                  value={body[field]}
                  onChange={(event) => setBody({ ...body, [field]: event.target.value })}
                  className="w-full"
                />
              )}
            </Asked>
          ))}
          <Asked says="Role">
            {(id) => (
              <Choice
                id={id}
                value={body.role}
                options={ROLES}
                onChoose={(role) => setBody({ ...body, role })}
                className="w-full"
              />
            )}
          </Asked>
          <Told error={invite.error} />
          <span className="flex gap-2">
            <Button small type="submit" disabled={!body.name || !body.email || invite.isPending}>
              Make the link
            </Button>
            <Button small tone="quiet" onClick={() => setAsking(false)}>
              leave it
            </Button>
          </span>
        </form>
      ) : (
        <Button small className="mt-2" onClick={() => setAsking(true)}>
          Invite somebody …
        </Button>
      )}
    </div>
  )
}
