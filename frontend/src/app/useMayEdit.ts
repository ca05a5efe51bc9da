import { useQuery } from '@tanstack/react-query'
import { sessionQuery } from '../api/queries'
import { useLens } from './useLens'

/** Whether one may edit what one sees: nobody edits a site as it is live. `anywhere`: whether one may at all. */
export function useMayEdit(anywhere = false): boolean {
  const lens = useLens()
  const may = useQuery(sessionQuery).data?.may_edit ?? false
  return may && (anywhere || lens.in !== 'live')
}
