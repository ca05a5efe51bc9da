import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'

interface Chosen<T> {
  /** What was chosen last and is on its way; null where nothing is. */
  value: T | null
  choose: (value: T) => void
  isPending: boolean
  error: Error | null
}

/**
 * A choice that is kept at once. It shows from the press on until what is kept was read again: a mutation says that it is
 * under way only a moment after the press, and until then a box would jump back.
 */
export function useChosen<T>(
  keep: (value: T) => Promise<unknown>,
  readAgain: () => Promise<unknown>,
  /** Choices of one scope are kept one after the other, so that the last one counts. */
  scope?: string,
): Chosen<T> {
  const [chosen, setChosen] = useState<{ value: T } | null>(null)
  const keeping = useMutation({
    ...(scope && { scope: { id: scope } }),
    mutationFn: (one: { value: T }) => keep(one.value),
    onSettled: async (_done, _error, one) => {
      await readAgain()
      setChosen((last) => (last === one ? null : last))
    },
  })
  return {
    value: chosen ? chosen.value : null,
    choose: (value) => {
      const one = { value }
      setChosen(one)
      keeping.mutate(one)
    },
    isPending: keeping.isPending,
    error: keeping.error,
  }
}
