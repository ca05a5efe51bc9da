import { useMutation } from '@tanstack/react-query'
import { Popover } from 'radix-ui'
import { useState } from 'react'
import { answered, client, type Schemas } from '../../api/client'
import type { MenuDocument } from '../../outline/tree'
import { Button } from '../../parts/Button'
import { Told } from '../../parts/Told'

interface Props {
  bench: Schemas['BenchPage']
  changes: Schemas['Edits']
  editable: boolean
  /** What is on the screen, saved or not. */
  document: () => MenuDocument
  onMended: (document: MenuDocument, says: string) => void
  onItem: (id: string) => void
}

/** The draft against what is live, in plain sentences; each can be taken back by itself. */
export function WhatChanged({ bench, changes, editable, document, onMended, onItem }: Props) {
  const [open, setOpen] = useState(false)
  const back = useMutation({
    mutationFn: async (edits: Schemas['EditOut'][]) => {
      const mended = await answered(
        client.POST('/api/sites/{site}/menus/{menu}/take-back', {
          params: { path: { site: bench.site.key, menu: bench.key } },
          body: {
            before: bench.live_hash ?? null,
            document: document(),
            keys: edits.map((edit) => edit.key),
          },
        }),
      )
      const says =
        edits.length === 1 ? `Taken back: ${edits[0]?.says}.` : `Taken back: ${edits.length} edits.`
      onMended(mended as unknown as MenuDocument, says)
    },
  })
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger asChild>
        <Button small disabled={changes.count === 0}>
          What did I change · {changes.count}
        </Button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={6}
          aria-label="What did I change"
          className="z-40 flex max-h-[70vh] w-[520px] flex-col rounded-sign border border-ink bg-plate shadow-lg"
        >
          <h2 className="px-4 pt-3 pb-1">Against what is live</h2>
          <Told error={back.error} />
          <ul className="min-h-0 flex-1 overflow-auto px-4 pb-3">
            {changes.first.map((edit) => (
              <li
                key={edit.key}
                className="group flex items-baseline gap-2 border-t border-hair py-1 first:border-0"
              >
                <button
                  type="button"
                  className="min-w-0 flex-1 text-left enabled:hover:underline"
                  disabled={!edit.id || edit.op === 'remove'}
                  onClick={() => {
                    if (edit.id) onItem(edit.id)
                    setOpen(false)
                  }}
                >
                  {edit.says}
                </button>
                {editable && (
                  <Button
                    small
                    aria-label={`Take back: ${edit.says}`}
                    disabled={back.isPending}
                    onClick={() => back.mutate([edit])}
                  >
                    Take back
                  </Button>
                )}
              </li>
            ))}
            {changes.count > changes.first.length && (
              <li className="border-t border-hair pt-1 text-ink-2">
                and {changes.count - changes.first.length} more
              </li>
            )}
          </ul>
          {editable && bench.live_hash && changes.count > 1 && changes.count === changes.first.length && (
            <p className="border-t border-hair px-4 py-2 text-right">
              <Button small disabled={back.isPending} onClick={() => back.mutate(changes.first)}>
                Take all of it back
              </Button>
            </p>
          )}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  )
}
