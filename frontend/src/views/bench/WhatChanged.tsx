import { useMutation } from '@tanstack/react-query'
import { answered, client, type Schemas } from '../../api/client'
import type { MenuDocument } from '../../outline/tree'
import { Differences } from '../../parts/Differences'

interface Props {
  bench: Schemas['BenchPage']
  changes: Schemas['Edits']
  editable: boolean
  /** What is on the screen, saved or not. */
  document: () => MenuDocument
  onMended: (document: MenuDocument, says: string) => void
  onItem: (id: string) => void
}

/** The menu's draft against what is live. */
export function WhatChanged({ bench, changes, editable, document, onMended, onItem }: Props) {
  const back = useMutation({
    mutationFn: async (edits: readonly Schemas['EditOut'][]) => {
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
      onMended(mended, says)
    },
  })
  return (
    <Differences
      trigger="What did I change"
      label="What did I change"
      edits={changes.first}
      count={changes.count}
      unlisted={changes.count - changes.first.length}
      editable={editable}
      pending={back.isPending}
      error={back.error}
      onBack={(edits) => back.mutate(edits)}
      goTo={({ id, op }) => (id && op !== 'remove' ? () => onItem(id) : null)}
      allBack={Boolean(bench.live_hash)}
    />
  )
}
