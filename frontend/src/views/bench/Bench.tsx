import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useParams } from '@tanstack/react-router'
import { useMemo } from 'react'
import { keys } from '../../api/keys'
import { benchQuery } from '../../api/queries'
import { pageOwner } from '../../api/session'
import { useMayEdit } from '../../app/useMayEdit'
import { recall } from '../../outline/remembered'
import { Trouble } from '../../parts/Trouble'
import { Editing } from './Editing'

const OTHERS_MS = 8_000
/** What was read longer ago is not begun with. */
const OLDEST_MS = 60_000

/** A menu on the bench: read once, then kept in step by its own saves. */
export function Bench() {
  const { site, menu } = useParams({ strict: false }) as { site: string; menu: string }
  const person = pageOwner() ?? ''
  const queries = useQueryClient()
  // What was read ahead is begun with, and what others saved since comes in as it always does; not after one's own saves.
  const ahead = useMemo(() => {
    const known = queries.getQueryState(benchQuery(site, menu).queryKey)
    return known?.data && !known.isInvalidated && Date.now() - known.dataUpdatedAt < OLDEST_MS
  }, [queries, site, menu])
  const bench = useQuery({
    ...benchQuery(site, menu),
    staleTime: OTHERS_MS,
    refetchOnWindowFocus: false,
    // What others save in the same change comes in by itself.
    refetchInterval: OTHERS_MS,
  })
  const remembered = useQuery({
    queryKey: keys.mine('remembered', person, site, menu),
    queryFn: () => recall(person, site, menu),
    gcTime: 0,
  })
  const mayEdit = useMayEdit()
  // One that was read stays, whatever reading it again says: somebody may be typing in it.
  if (!bench.data) return <Trouble query={bench} />
  if (!remembered.isFetched || (!ahead && bench.isFetching && !bench.isFetchedAfterMount)) return null
  return (
    <Editing
      key={`${site}/${menu}`}
      person={person}
      trouble={<Trouble query={bench} />}
      bench={bench.data}
      remembered={remembered.data ?? null}
      editable={mayEdit}
    />
  )
}
