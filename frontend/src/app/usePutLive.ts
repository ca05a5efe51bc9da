import { useMutation, useQuery } from '@tanstack/react-query'
import { useEffect, useRef, useState } from 'react'
import { answered, client, newKey } from '../api/client'
import { keys, useAnew } from '../api/keys'

/** What is to be done by hand goes on without being watched. */
const OVER = new Set(['live', 'failed', 'by hand'])

/** Asks for the release of what one was told of, and follows it until it is live or failed. */
export function usePutLive(site: string) {
  const anew = useAnew()
  const [id, setId] = useState<string | null>(null)
  const key = useRef<string | null>(null)
  const ask = useMutation({
    mutationFn: async (told: string) => {
      // One key for one press: a second press while it runs asks for the same release.
      key.current ??= newKey()
      return answered(
        client.POST('/api/sites/{site}/releases', {
          params: { path: { site }, query: { told }, header: { 'idempotency-key': key.current } },
        }),
      )
    },
    onSuccess: (release) => {
      setId(release.id)
      void anew.site(site)
    },
    onError: () => {
      key.current = null
    },
  })
  const release = useQuery({
    queryKey: keys.site(site, 'release', id),
    enabled: id !== null,
    queryFn: () =>
      answered(client.GET('/api/releases/{release}', { params: { path: { release: id ?? '' } } })),
    refetchInterval: (query) => (query.state.data && OVER.has(query.state.data.state) ? false : 400),
  })
  const state = release.data?.state
  useEffect(() => {
    if (!state || !OVER.has(state)) return
    key.current = null
    void anew.site(site)
  }, [state, site, anew])
  return {
    put: ask.mutateAsync,
    running: ask.isPending || (id !== null && (!state || !OVER.has(state))),
    release: release.data ?? null,
    error: ask.error,
  }
}
