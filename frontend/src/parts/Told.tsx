import { Refused } from '../api/client'

/** An error in the server's own words: what, where, why, and what would work. */
export function Told({ error }: { error: unknown }) {
  if (!error) return null
  const problem = error instanceof Refused ? error.problem : null
  return (
    <p role="alert" className="border-l-4 border-signal bg-signal-ground px-3 py-2 text-body">
      {problem ? problem.detail : 'The server cannot be reached. What you typed is still here.'}
      {problem?.where && <span className="text-ink-2"> ({problem.where})</span>}
      {problem?.remedy && <span className="block font-semibold">{problem.remedy}</span>}
    </p>
  )
}
