import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { answered, client, type Schemas } from '../../api/client'
import { useAnew } from '../../api/keys'
import { Button } from '../../parts/Button'
import { Told } from '../../parts/Told'
import { when } from '../../parts/times'

type Remark = Schemas['RemarkOut']
type One = Schemas['OneChangeOut']

interface On {
  site: string
  menu: string
  item: string
}

interface Writing {
  /** Whether one writes a remark there just now. */
  writing: boolean
  onWrite: (begin: boolean) => void
}

/** The way to a remark on an entry. */
export function Begin({ writing, onWrite }: Writing) {
  return (
    <Button small tone="quiet" disabled={writing} onClick={() => onWrite(true)}>
      remark
    </Button>
  )
}

/** Remarks on one entry, and a place for another one while it is written. */
export function RemarksOn({
  change,
  told,
  on,
  writing,
  onWrite,
}: Writing & { change: string; told: One; on: On }) {
  const mine = told.remarks.filter(
    (one) => !one.answers && one.site === on.site && one.menu === on.menu && one.item === on.item,
  )
  if (mine.length === 0 && !writing) return null
  return (
    <div className="ml-4">
      {mine.map((one) => (
        <Thread key={one.id} change={change} first={one} told={told} />
      ))}
      {writing && <Write change={change} on={on} says="A remark on this" onDone={() => onWrite(false)} />}
    </div>
  )
}

/** Remarks on the change as a whole, and those on entries that it no longer edits. */
export function Remarks({ change, told }: { change: string; told: One }) {
  const shown = new Set(
    told.parts.flatMap((part) =>
      part.menus.flatMap((menu) => menu.edits.first.map((edit) => `${part.key} ${menu.menu} ${edit.id}`)),
    ),
  )
  const loose = told.remarks.filter(
    (one) => !one.answers && !(one.item && shown.has(`${one.site} ${one.menu} ${one.item}`)),
  )
  return (
    <section aria-label="Remarks" className="mb-3">
      <h3 className="font-bold text-ink-2">Remarks</h3>
      {loose.map((one) => (
        <Thread key={one.id} change={change} first={one} told={told} />
      ))}
      <Write change={change} on={null} says="A remark on the whole" />
    </section>
  )
}

function Thread({ change, first, told }: { change: string; first: Remark; told: One }) {
  const anew = useAnew()
  const [answering, setAnswering] = useState(false)
  const settle = useMutation({
    mutationFn: (settled: boolean) =>
      answered(
        client.PUT('/api/changes/{change}/remarks/{remark}/settled', {
          params: { path: { change, remark: first.id } },
          body: { settled },
        }),
      ),
    onSettled: () => anew.sites(),
  })
  const answers = told.remarks.filter((one) => one.answers === first.id)
  return (
    <article
      aria-label={`Remark of ${first.by}`}
      className={`my-1 border-l-2 border-edge pl-2 text-small ${first.settled_at ? 'text-ink-2' : ''}`}
    >
      {[first, ...answers].map((one) => (
        <p key={one.id} className="break-words whitespace-pre-wrap">
          <b>{one.by}</b> <span className="text-ink-2">{when(one.at)}</span> {one.says}
        </p>
      ))}
      <Told error={settle.error} />
      {answering && (
        <Write
          change={change}
          on={null}
          answers={first.id}
          says={`An answer to ${first.by}`}
          onDone={() => setAnswering(false)}
        />
      )}
      <span className="flex flex-wrap items-baseline gap-2">
        {!answering && (
          <Button small tone="quiet" onClick={() => setAnswering(true)}>
            answer
          </Button>
        )}
        <Button
          small
          tone="quiet"
          disabled={settle.isPending}
          onClick={() => settle.mutate(first.settled_at === null)}
        >
          {first.settled_at ? 'open it again' : 'settled'}
        </Button>
        {first.settled_by && <span className="text-note">settled by {first.settled_by}</span>}
      </span>
    </article>
  )
}

interface WriteProps {
  change: string
  on: On | null
  answers?: string
  says: string
  onDone?: () => void
}

function Write({ change, on, answers, says, onDone }: WriteProps) {
  const anew = useAnew()
  const [words, setWords] = useState('')
  const make = useMutation({
    mutationFn: () =>
      answered(
        client.POST('/api/changes/{change}/remarks', {
          params: { path: { change } },
          body: { says: words, answers: answers ?? null, ...(on ?? {}) },
        }),
      ),
    onSuccess: async () => {
      setWords('')
      await anew.sites()
      onDone?.()
    },
  })
  return (
    <form
      className="my-1 flex flex-wrap items-end gap-2"
      onSubmit={(event) => {
        event.preventDefault()
        make.mutate()
      }}
    >
      <textarea
        aria-label={says}
        placeholder={says}
        rows={1}
        value={words}
        maxLength={4_000}
        onChange={(event) => setWords(event.target.value)}
        className="min-w-0 flex-1 border border-hair bg-paper px-2 py-1 text-small"
      />
      <Button small type="submit" disabled={!words.trim() || make.isPending}>
        Say it
      </Button>
      {onDone && (
        <Button small tone="quiet" onClick={onDone}>
          leave it
        </Button>
      )}
      <Told error={make.error} />
    </form>
  )
}
