import { useQuery } from '@tanstack/react-query'
import { readyQuery } from '../api/queries'
import { Mark } from './Mark'

/** Said where work waits and nobody is there to do it. */
export function WorkerAway() {
  const ready = useQuery(readyQuery)
  const found = ready.data
  if (!found || found.worker || found.waiting === 0) return null
  const since = found.oldest_s === null ? '' : `, the longest for ${inWords(found.oldest_s)}`
  return (
    <p role="status" className="mb-3 border-l-4 border-signal bg-signal-ground px-3 py-2 text-body">
      <Mark kind="stop">nothing goes out</Mark>{' '}
      {found.waiting === 1 ? 'One piece' : `${found.waiting} pieces`} of work{' '}
      {found.waiting === 1 ? 'waits' : 'wait'}
      {since}, and no worker has been heard of
      {found.worker_heard_s === null ? '' : ` for ${inWords(found.worker_heard_s)}`}.
      <span className="block font-semibold">
        What waits is kept. Whoever runs Sign Shelf must start a worker: sign-shelf worker
      </span>
    </p>
  )
}

const inWords = (seconds: number): string =>
  seconds < 90
    ? `${Math.round(seconds)} seconds`
    : seconds < 5_400
      ? `${Math.round(seconds / 60)} minutes`
      : `${Math.round(seconds / 3_600)} hours`
