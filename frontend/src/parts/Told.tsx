import { Refused } from '../api/client'

/** Where in what was given; a record's address in the interface's own paths says nothing to who stands before it. */
const placed = (where?: string) => (where && !/^[a-z-]+\//.test(where) ? where : null)

/** An error in the server's own words: what, where, why, and what would work. */
export function Told({ error }: { error: unknown }) {
  if (!error) return null
  const problem = error instanceof Refused ? error.problem : null
  const where = placed(problem?.where)
  return (
    <p role="alert" className="border-l-4 border-signal bg-signal-ground px-3 py-2 text-body">
      {problem ? problem.detail : 'The server cannot be reached. What you typed is still here.'}
      {where && <span className="text-ink-2"> ({where})</span>}
      {problem?.remedy && <span className="block font-semibold">{problem.remedy}</span>}
    </p>
  )
}
