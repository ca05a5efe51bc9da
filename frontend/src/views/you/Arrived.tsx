import { useMutation } from '@tanstack/react-query'
import { answered, client, type Schemas } from '../../api/client'
import { Button } from '../../parts/Button'
import { Mark, type MarkKind } from '../../parts/Mark'
import { Told } from '../../parts/Told'
import { when } from '../../parts/times'

type Notice = Schemas['NoticeOut']

const STANDS: Record<Notice['state'], [MarkKind, string]> = {
  waiting: ['waiting', 'on its way'],
  going: ['waiting', 'on its way'],
  sent: ['ok', 'sent'],
  failed: ['stop', 'given up'],
  unsure: ['drift', 'perhaps arrived'],
}

/** What was told in one place, the newest first, and what became of it. */
export function Arrived({ told, onDone }: { told: readonly Notice[]; onDone: () => Promise<unknown> }) {
  const again = useMutation({
    mutationFn: (notice_id: string) =>
      answered(client.POST('/api/notices/{notice_id}/again', { params: { path: { notice_id } } })),
    onSettled: onDone,
  })
  if (told.length === 0) return null
  return (
    <>
      <Told error={again.error} />
      <ul aria-label="What was told" className="mt-1.5 max-h-[260px] overflow-y-auto">
        {told.map((one) => (
          <li key={one.id} className="border-t border-hair py-1 text-small">
            <details>
              <summary className="flex cursor-pointer flex-wrap items-baseline gap-x-3">
                <span className="w-[96px] text-ink-2">{when(one.made_at)}</span>
                <span className="min-w-0 flex-1 truncate">{one.subject}</span>
                <Mark kind={STANDS[one.state][0]}>{STANDS[one.state][1]}</Mark>
              </summary>
              <pre className="my-1 max-h-[220px] overflow-auto border-l-4 border-wood bg-plate px-3 py-2 font-[inherit] whitespace-pre-wrap">
                {one.text}
              </pre>
            </details>
            {one.says && (
              <p className="ml-[108px] text-note text-ink-2">
                {one.says}
                {one.next_try && ` It is tried again at ${when(one.next_try)}.`}{' '}
                {(one.state === 'failed' || one.state === 'unsure') && (
                  <Button small disabled={again.isPending} onClick={() => again.mutate(one.id)}>
                    Send it again
                  </Button>
                )}
              </p>
            )}
          </li>
        ))}
      </ul>
    </>
  )
}
