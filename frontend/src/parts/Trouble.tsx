import { Refused } from '../api/client'
import { Button } from './Button'
import { Told } from './Told'

interface Props {
  query: { error: unknown; isFetching: boolean; refetch: () => unknown }
}

/** What could not be read, with the way to try again. What was read before stays where it is. */
export function Trouble({ query }: Props) {
  if (!query.error) return null
  const lost = query.error instanceof Refused && [403, 404].includes(query.error.problem.status)
  return (
    <div className="flex items-center gap-3 bg-signal-ground pr-3">
      <div className="min-w-0 flex-1">
        <Told error={query.error} />
      </div>
      {lost && (
        <a href="/shelf" className="underline">
          To the shelf
        </a>
      )}
      <Button small disabled={query.isFetching} onClick={() => void query.refetch()}>
        Try again
      </Button>
    </div>
  )
}
