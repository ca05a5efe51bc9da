import { useMutation } from '@tanstack/react-query'
import type { ReactNode } from 'react'
import { answered, client, type Schemas } from '../../api/client'
import { useAnew } from '../../api/keys'
import { daysOn } from '../../parts/days'
import { Told } from '../../parts/Told'

interface Moved {
  by: (change: string, days: number) => void
  running: boolean
  error: ReactNode
}

/** A change's moments, both of them, so many days on: at the same time of the day. */
export function useMove(changes: readonly Schemas['OpenChangeOut'][]): Moved {
  const anew = useAnew()
  const move = useMutation({
    mutationFn: ({ change, days }: { change: string; days: number }) => {
      const kept = changes.find((one) => one.id === change)?.schedule
      if (!kept) return Promise.resolve(undefined)
      return answered(
        client.PUT('/api/changes/{change}/schedule', {
          params: { path: { change } },
          body: { kind: kept.kind, goes: later(kept.goes, days), ends: kept.ends && later(kept.ends, days) },
        }),
      )
    },
    onSettled: () => anew.sites(),
  })
  return {
    by: (change, days) => move.mutate({ change, days }),
    running: move.isPending,
    error: <Told error={move.error} />,
  }
}

/** On another day the clock shows the time once, or the server asks. */
const later = (at: string, days: number): string => `${daysOn(at.slice(0, 10), days)}${at.slice(10, 16)}`
