import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { answered, client, type Schemas } from '../../api/client'
import { useAnew } from '../../api/keys'
import { Button } from '../../parts/Button'
import { Choice } from '../../parts/Choice'
import { Told } from '../../parts/Told'
import { dayChoices } from '../../parts/yearly'

type Change = Schemas['OpenChangeOut']
type Day = Schemas['SeasonOut']['goes']

const APPROVED = [
  ['yes', 'approved as long as it does the same'],
  ['no', 'reviewed again each year'],
] as const

/** Whether it comes back every year, and by which day; said of a change that has an end. */
export function EveryYear({ change, can }: { change: Change; can: boolean }) {
  const anew = useAnew()
  const [asking, setAsking] = useState(false)
  const schedule = change.schedule
  const stop = useMutation({
    mutationFn: () =>
      answered(client.DELETE('/api/changes/{change}/season', { params: { path: { change: change.id } } })),
    onSettled: () => anew.sites(),
  })
  if (!schedule?.ends) return null
  const { season } = schedule
  if (!season && !can) return null
  if (asking) return <Ask change={change} schedule={schedule} onDone={() => setAsking(false)} />
  return (
    <p className="mt-1 flex flex-wrap items-baseline gap-x-2 text-small">
      {season ? (
        <>
          <span>
            Comes back every year {season.says},{' '}
            {APPROVED.find(([value]) => (value === 'yes') === season.approved)?.[1]}.
          </span>
          {can && (
            <Button small tone="quiet" disabled={stop.isPending} onClick={() => stop.mutate()}>
              not any more
            </Button>
          )}
        </>
      ) : (
        <Button small tone="quiet" onClick={() => setAsking(true)}>
          let it come back every year …
        </Button>
      )}
      <Told error={stop.error} />
    </p>
  )
}

interface AskProps {
  change: Change
  schedule: Schemas['ScheduleOut']
  onDone: () => void
}

function Ask({ change, schedule, onDone }: AskProps) {
  const anew = useAnew()
  const [goes, setGoes] = useState<Day>('date')
  const [ends, setEnds] = useState<Day>('date')
  const [approved, setApproved] = useState('yes')
  const set = useMutation({
    mutationFn: () =>
      answered(
        client.PUT('/api/changes/{change}/season', {
          params: { path: { change: change.id } },
          body: { goes, ends, approved: approved === 'yes' },
        }),
      ),
    onSuccess: onDone,
    onSettled: () => anew.sites(),
  })
  return (
    <form
      aria-label="Every year"
      className="mt-1 text-small"
      onSubmit={(event) => {
        event.preventDefault()
        set.mutate()
      }}
    >
      <div className="flex flex-wrap items-center gap-x-2 gap-y-1">
        every year
        <Choice
          aria-label="Goes live each year"
          value={goes}
          options={dayChoices(schedule.goes)}
          onChoose={(chosen) => setGoes(chosen as Day)}
        />
        until
        <Choice
          aria-label="Comes back each year"
          value={ends}
          options={dayChoices(schedule.ends ?? schedule.goes)}
          onChoose={(chosen) => setEnds(chosen as Day)}
        />
        <Choice aria-label="Approval each year" value={approved} options={APPROVED} onChoose={setApproved} />
        <Button small type="submit" tone="go" disabled={set.isPending}>
          Set it
        </Button>
        <Button small tone="quiet" onClick={onDone}>
          not now
        </Button>
      </div>
      <p className="text-note text-ink-2">
        When this year's is over, next year's is made as a change of its own, on top of what is live by then.
      </p>
      <Told error={set.error} />
    </form>
  )
}
