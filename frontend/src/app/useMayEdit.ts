import { useQuery } from '@tanstack/react-query'
import { useParams } from '@tanstack/react-router'
import { sessionQuery } from '../api/queries'
import { useLens } from '../lens/useLens'

/** Whether one may edit what one sees: nobody edits a site as it is live. `anywhere`: whether one may at all. */
export function useMayEdit(anywhere = false): boolean {
  const lens = useLens()
  const { site } = useParams({ strict: false }) as { site?: string }
  const person = useQuery(sessionQuery).data
  const may = (site === undefined ? undefined : person?.may_edit_at[site]) ?? person?.may_edit ?? false
  return may && (anywhere || lens.in !== 'live')
}
