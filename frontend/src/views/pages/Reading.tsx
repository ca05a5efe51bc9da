import { useMutation } from '@tanstack/react-query'
import { useEffect, useRef } from 'react'
import { answered, client, type Schemas } from '../../api/client'
import { useAnew } from '../../api/keys'
import { useMayEdit } from '../../app/useMayEdit'
import { Button } from '../../parts/Button'
import { Mark } from '../../parts/Mark'
import { Told } from '../../parts/Told'
import { when } from '../../parts/times'

interface Props {
  site: string
  known: Schemas['InventoryOut']
  editable: boolean
}

/** How far the pages are known, and the way to have them read again; one need not wait for it. */
export function Reading({ site, known, editable }: Props) {
  const anew = useAnew()
  const mayAsk = useMayEdit(true)
  const read = useMutation({
    mutationFn: () =>
      answered(client.POST('/api/sites/{site}/inventory/read', { params: { path: { site } } })),
    onSuccess: () => anew.site(site),
  })
  const { reading } = known
  // What came to differ is known once it has been read to the end.
  const was = useRef(false)
  useEffect(() => {
    if (was.current && !reading) void anew.site(site)
    was.current = Boolean(reading)
  }, [reading, anew, site])
  return (
    <>
      <p className="mb-2 flex flex-wrap items-baseline gap-x-3 gap-y-1 text-small text-ink-2">
        <span role="status" className="tabular-nums">
          {reading ? doing(reading) : saysWhen(known)}
        </span>
        {mayAsk && (
          <Button small disabled={read.isPending || Boolean(reading)} onClick={() => read.mutate()}>
            Read the pages now
          </Button>
        )}
        {known.says && <Mark kind="stop">the last reading came to nothing: {known.says}</Mark>}
      </p>
      <Told error={read.error} />
      {known.notes.length > 0 && (
        <details className="mb-2 text-small text-ink-2">
          <summary>
            {known.notes.length === 1 ? '1 note' : `${known.notes.length} notes`} of the last reading
          </summary>
          <ul className="pl-4">
            {known.notes.map((note) => (
              <li key={note}>{note}</li>
            ))}
          </ul>
        </details>
      )}
      {known.doubt && <Doubt site={site} doubt={known.doubt} editable={editable} />}
    </>
  )
}

const doing = ({ doing, done, of }: Schemas['ReadingOut']): string =>
  done === 0 ? `${doing} …` : `${doing}: ${done}${of ? ` of ${of}` : ''}`

function saysWhen(known: Schemas['InventoryOut']): string {
  const read = known.read_at ? `read ${when(known.read_at)}` : 'as they were when the site was taken in'
  return known.due_at ? `${read}; again ${when(known.due_at)}` : `${read}; only when asked`
}

interface DoubtProps {
  site: string
  doubt: Schemas['DoubtOut']
  editable: boolean
}

/** What a reading told and is not believed until somebody says so. */
function Doubt({ site, doubt, editable }: DoubtProps) {
  const anew = useAnew()
  const answer = useMutation({
    mutationFn: (believe: boolean) =>
      answered(
        client.PUT('/api/sites/{site}/inventory/doubt', { params: { path: { site } }, body: { believe } }),
      ),
    onSettled: () => anew.site(site),
  })
  return (
    <section
      aria-label="To be confirmed"
      className="mb-3 border-l-4 border-signal bg-signal-ground px-3 py-2"
    >
      <p>
        <b>Is that so?</b> On {when(doubt.at)}, {doubt.says}.{' '}
        {doubt.pages > 0 ? 'Nothing was taken out of the inventory.' : 'They stay in the inventory.'}
      </p>
      {editable && (
        <p className="mt-1.5 flex gap-2">
          <Button small disabled={answer.isPending} onClick={() => answer.mutate(true)}>
            {doubt.pages > 0 ? `The ${doubt.pages} pages are gone` : 'It is meant so'}
          </Button>
          {doubt.pages > 0 && (
            <Button small disabled={answer.isPending} onClick={() => answer.mutate(false)}>
              They stay
            </Button>
          )}
        </p>
      )}
      <Told error={answer.error} />
    </section>
  )
}
