import { useMutation } from '@tanstack/react-query'
import { useEffect, useState } from 'react'
import { answered, client, type Schemas } from '../../api/client'
import { useAnew } from '../../api/keys'
import { Button } from '../../parts/Button'
import { Choice } from '../../parts/Choice'
import { DayField } from '../../parts/DayField'
import { written } from '../../parts/days'
import { Field } from '../../parts/Field'
import { Input } from '../../parts/Input'
import { Told } from '../../parts/Told'
import { useSettled } from '../../parts/useSettled'
import type { Line } from './kinds'

type Care = Omit<Schemas['CareBody'], 'code' | 'cause' | 'sites'>

/** Who sees to it and by when, or why it is accepted. */
export function SeeTo({ line, people }: { line: Line; people: Schemas['CauseOut']['people'] }) {
  const anew = useAnew()
  const [reason, setReason] = useState('')
  const [until, setUntil] = useState('')
  const [waiving, setWaiving] = useState(false)
  const keep = useMutation({
    mutationFn: (care: Care) =>
      answered(client.PUT('/api/findings/care', { body: { code: line.code, cause: line.cause, ...care } })),
    onSuccess: () => anew.sites(),
  })
  // Whoever goes through the names by the arrow keys means the one at which they stay.
  const [owner, setOwner] = useState(line.owner_id ?? '')
  const settled = useSettled(owner, 600)
  const give = keep.mutate
  useEffect(() => {
    if (settled !== (line.owner_id ?? '')) give({ owner: settled })
  }, [settled])
  return (
    <section aria-label="Who sees to it" className="mb-3">
      <h3 className="font-bold text-ink-2">Who sees to it</h3>
      <Field says="given to">
        {(id) => (
          <Choice
            id={id}
            value={owner}
            onChoose={setOwner}
            options={people.map((one) => [one.id, one.name] as const)}
          >
            <option value="">nobody</option>
          </Choice>
        )}
      </Field>
      <Field says="done by">
        {(id) => <DayField id={id} value={line.due ?? ''} onChange={(due) => keep.mutate({ due })} />}
      </Field>
      {line.waived ? (
        <p className="mt-2">
          Waived{line.waived.by && ` by ${line.waived.by}`}
          {line.waived.until && ` until ${written(line.waived.until)}`}: {line.waived.reason}{' '}
          <Button small disabled={keep.isPending} onClick={() => keep.mutate({ waive: '' })}>
            Waive it no longer
          </Button>
        </p>
      ) : waiving ? (
        <form
          onSubmit={(event) => {
            event.preventDefault()
            keep.mutate({ waive: reason, until: until || null })
          }}
        >
          <Field says="accepted because">
            {(id) => (
              <Input
                id={id}
                autoFocus
                required
                value={reason}
                maxLength={1_000}
                onChange={(event) => setReason(event.target.value)}
                className="w-56"
              />
            )}
          </Field>
          <Field says="until the end of">
            {(id) => <DayField id={id} value={until} onChange={setUntil} />}
          </Field>
          <p className="mt-1.5 flex gap-2">
            <Button type="submit" small tone="go" disabled={keep.isPending || reason.trim() === ''}>
              Waive it
            </Button>
            <Button small tone="quiet" onClick={() => setWaiving(false)}>
              Not now
            </Button>
          </p>
        </form>
      ) : (
        <p className="mt-2">
          <Button small onClick={() => setWaiving(true)}>
            Waive …
          </Button>
        </p>
      )}
      {keep.error && <Told error={keep.error} />}
    </section>
  )
}
