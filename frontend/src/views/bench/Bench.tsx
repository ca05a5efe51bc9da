import { useQuery } from '@tanstack/react-query'
import { useParams } from '@tanstack/react-router'
import { benchQuery } from '../../api/queries'
import { useMayEdit } from '../../app/useMayEdit'
import { recall } from '../../outline/remembered'
import { Told } from '../../parts/Told'
import { Editing } from './Editing'

/** A menu on the bench: read once, then kept in step by its own saves. */
export function Bench() {
  const { site, menu } = useParams({ strict: false }) as { site: string; menu: string }
  const bench = useQuery({
    ...benchQuery(site, menu),
    staleTime: 0,
    refetchOnWindowFocus: false,
    refetchOnMount: 'always',
  })
  const remembered = useQuery({
    queryKey: ['remembered', site, menu],
    queryFn: () => recall(site, menu),
    gcTime: 0,
  })
  const mayEdit = useMayEdit()
  if (bench.error) return <Told error={bench.error} />
  if (!bench.data || !remembered.isFetched || (bench.isFetching && !bench.isFetchedAfterMount)) return null
  return (
    <Editing
      key={`${site}/${menu}`}
      bench={bench.data}
      remembered={remembered.data ?? null}
      editable={mayEdit}
    />
  )
}
