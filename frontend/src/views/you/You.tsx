import { useMutation, useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { answered, client, type Schemas } from '../../api/client'
import { useAnew } from '../../api/keys'
import { mySignInsQuery, sessionQuery, sitesQuery } from '../../api/queries'
import { chooseLight, chosenLight, LIGHTS } from '../../app/light'
import { Asked } from '../../parts/Asked'
import { Button } from '../../parts/Button'
import { Choice } from '../../parts/Choice'
import { Input } from '../../parts/Input'
import { NewPassword } from '../../parts/NewPassword'
import { Once } from '../../parts/Once'
import { PageHead } from '../../parts/PageHead'
import { SignIns } from '../../parts/SignIns'
import { Told } from '../../parts/Told'
import { Words } from '../../parts/Words'
import { Notices } from './Notices'
import { SecondFactor } from './SecondFactor'

/** One's own account: what one is told, its password, where one is signed in, and tokens for programs. */
export function You() {
  const session = useQuery(sessionQuery)
  return (
    <div className="px-[18px] py-3.5">
      <PageHead names={[session.data?.name ?? 'You']} beside={session.data?.email} />
      <div className="grid grid-cols-[minmax(0,1fr)_360px] gap-8 max-[800px]:grid-cols-1">
        <div>
          <Notices />
          <Where />
          <Tokens />
        </div>
        <div>
          <Password />
          <SecondFactor />
          <Lights />
        </div>
      </div>
    </div>
  )
}

function Lights() {
  const [light, setLight] = useState(chosenLight)
  return (
    <section aria-label="Light" className="mt-6">
      <h2>Light</h2>
      <Words
        name="Light"
        value={light}
        options={LIGHTS}
        onChoose={(next) => {
          chooseLight(next)
          setLight(next)
        }}
        className="gap-x-4 border-t border-hair py-1"
      />
    </section>
  )
}

function Where() {
  const anew = useAnew()
  const found = useQuery(mySignInsQuery)
  const again = () => anew.mine()
  const end = useMutation({
    mutationFn: (sign_in_id: string) =>
      answered(client.DELETE('/api/session/sign-ins/{sign_in_id}', { params: { path: { sign_in_id } } })),
    onSettled: again,
  })
  const endOthers = useMutation({
    mutationFn: () => answered(client.DELETE('/api/session/sign-ins')),
    onSettled: again,
  })
  return (
    <section aria-labelledby="where" className="mb-6">
      <h2 id="where">Where you are signed in</h2>
      <Told error={found.error ?? end.error ?? endOthers.error} />
      <SignIns found={found.data ?? []} pending={end.isPending} onEnd={end.mutate} />
      {(found.data?.length ?? 0) > 1 && (
        <Button small className="mt-2" disabled={endOthers.isPending} onClick={() => endOthers.mutate()}>
          End all but this one
        </Button>
      )}
    </section>
  )
}

type Scope = Schemas['TokenBody']['scope'] & string

const SCOPES: Record<Scope, string> = {
  look: 'look',
  edit: 'edit in changes',
  'put live': 'edit and put live',
  all: 'do all that you may',
}
const LASTS: [string, string][] = [
  ['7', 'a week'],
  ['30', '30 days'],
  ['90', '90 days'],
  ['366', 'a year'],
]

function Tokens() {
  const anew = useAnew()
  const [name, setName] = useState('')
  const [scope, setScope] = useState<Scope>('look')
  const [days, setDays] = useState('90')
  const [site, setSite] = useState('')
  const sites = useQuery(sitesQuery).data ?? []
  const make = useMutation({
    mutationFn: () =>
      answered(
        client.POST('/api/session/tokens', {
          body: { name, scope, days: Number(days), only_at: site ? [site] : [] },
        }),
      ),
    onSuccess: async () => {
      setName('')
      await anew.mine()
    },
  })
  return (
    <section aria-labelledby="programs">
      <h2 id="programs">Programs of yours</h2>
      <p className="text-small text-ink-2">
        A program that shows a token of yours (Authorization: Bearer …) may do so much of what you may.
      </p>
      <form
        className="mt-1 flex flex-wrap items-end gap-3"
        onSubmit={(event) => {
          event.preventDefault()
          make.mutate()
        }}
      >
        <div className="w-[260px]">
          <Asked says="What the program is for">
            {(id) => (
              <Input
                id={id}
                value={name}
                onChange={(event) => setName(event.target.value)}
                className="w-full"
              />
            )}
          </Asked>
        </div>
        <Asked says="It may">
          {(id) => (
            <Choice
              id={id}
              value={scope}
              options={Object.entries(SCOPES)}
              onChoose={(next) => setScope(next as Scope)}
            />
          )}
        </Asked>
        <Asked says="at">
          {(id) => (
            <Choice
              id={id}
              value={site}
              options={[['', 'every site'], ...sites.map((one): [string, string] => [one.key, one.name])]}
              onChoose={setSite}
            />
          )}
        </Asked>
        <Asked says="for">{(id) => <Choice id={id} value={days} options={LASTS} onChoose={setDays} />}</Asked>
        <Button small type="submit" disabled={!name.trim() || make.isPending}>
          Make a token
        </Button>
      </form>
      <Told error={make.error} />
      {make.data && <Once says="The token." secret={make.data.token} />}
    </section>
  )
}

function Password() {
  const anew = useAnew()
  const [old, setOld] = useState('')
  const [fresh, setFresh] = useState('')
  const change = useMutation({
    mutationFn: () => answered(client.PUT('/api/session/password', { body: { old, new: fresh } })),
    onSuccess: async () => {
      setOld('')
      setFresh('')
      await anew.mine()
    },
  })
  return (
    <section aria-labelledby="password">
      <h2 id="password">Password</h2>
      <form
        className="mt-1 grid gap-3"
        onSubmit={(event) => {
          event.preventDefault()
          change.mutate()
        }}
      >
        <Asked says="The one that you sign in with now">
          {(id) => (
            <Input
              id={id}
              type="password"
              autoComplete="current-password"
              value={old}
              onChange={(event) => setOld(event.target.value)}
              className="w-full"
            />
          )}
        </Asked>
        <NewPassword value={fresh} onChange={setFresh} />
        <Told error={change.error} />
        {change.isSuccess && (
          <p role="status" className="text-small">
            Changed. You stay signed in here; everywhere else you are signed out, your programs too.
          </p>
        )}
        <span>
          <Button type="submit" disabled={!old || !fresh || change.isPending}>
            Change the password
          </Button>
        </span>
      </form>
    </section>
  )
}
