import { useMutation, useQuery } from '@tanstack/react-query'
import { type FormEvent, type ReactNode, useState } from 'react'
import { answered, client } from '../../api/client'
import { useAnew } from '../../api/keys'
import { secondFactorQuery } from '../../api/queries'
import { Asked } from '../../parts/Asked'
import { Button } from '../../parts/Button'
import { Input } from '../../parts/Input'
import { Told } from '../../parts/Told'

/** A code beside the password: set up, shown once, taken off again. */
export function SecondFactor() {
  const anew = useAnew()
  const on = useQuery(secondFactorQuery).data?.on
  const [given, setGiven] = useState('')
  const again = () => {
    setGiven('')
    return anew.mine()
  }
  const begin = useMutation({
    mutationFn: () => answered(client.POST('/api/session/second-factor', { body: { password: given } })),
    onSuccess: () => setGiven(''),
  })
  const turnOn = useMutation({
    mutationFn: () => answered(client.PUT('/api/session/second-factor', { body: { code: given } })),
    onSuccess: () => {
      begin.reset()
      return again()
    },
  })
  const turnOff = useMutation({
    mutationFn: () => answered(client.DELETE('/api/session/second-factor', { body: { code: given } })),
    onSuccess: () => {
      turnOn.reset()
      return again()
    },
  })
  if (on === undefined) return null
  const spare = turnOn.data?.spare
  return (
    <section aria-labelledby="second-factor" className="mt-6">
      <h2 id="second-factor">Second factor</h2>
      {on && spare && (
        <div role="status" className="my-2 border-l-4 border-wood bg-plate px-3 py-2 text-small">
          It is on. Keep these for when your authenticator is lost; each counts once, and they are not shown
          again:
          <ul className="mono mt-1 grid grid-cols-2 gap-x-4">
            {spare.map((one) => (
              <li key={one}>{one}</li>
            ))}
          </ul>
        </div>
      )}
      {on ? (
        <One
          says="Whoever signs in as you shows a code as well."
          label="Code, or a spare one"
          act="Take it off"
          value={given}
          onChange={setGiven}
          onAct={turnOff.mutate}
          error={turnOff.error}
        />
      ) : begin.data ? (
        <One
          says="Let your authenticator read this, and write what it shows."
          label="Code"
          act="Turn it on"
          value={given}
          onChange={setGiven}
          onAct={turnOn.mutate}
          error={turnOn.error}
        >
          <img
            alt="What your authenticator reads"
            src={`data:image/svg+xml,${encodeURIComponent(begin.data.picture)}`}
            className="my-1 w-[172px] bg-white"
          />
          <p className="mono text-note break-all text-ink-2">{begin.data.secret.replace(/(.{4})/g, '$1 ')}</p>
        </One>
      ) : (
        <One
          says="A code of your phone beside the password: who has the one has not the other."
          label="Your password"
          type="password"
          act="Set it up …"
          value={given}
          onChange={setGiven}
          onAct={begin.mutate}
          error={begin.error}
        />
      )}
    </section>
  )
}

interface OneProps {
  says: string
  label: string
  type?: 'password'
  act: string
  value: string
  onChange: (value: string) => void
  onAct: () => void
  error: Error | null
  children?: ReactNode
}

function One({ says, label, type, act, value, onChange, onAct, error, children }: OneProps) {
  const submit = (event: FormEvent) => {
    event.preventDefault()
    if (value) onAct()
  }
  return (
    <form className="mt-1 grid gap-2" onSubmit={submit}>
      <p className="text-small text-ink-2">{says}</p>
      {children}
      <Asked says={label}>
        {(id) => (
          <Input
            id={id}
            type={type ?? 'text'}
            autoComplete={type ? 'current-password' : 'one-time-code'}
            value={value}
            onChange={(event) => onChange(event.target.value)}
            className={`w-full ${type ? '' : 'mono'}`}
          />
        )}
      </Asked>
      <Told error={error} />
      <span>
        <Button small type="submit" disabled={!value}>
          {act}
        </Button>
      </span>
    </form>
  )
}
