/** What a sweep looks for; in the address, so that it can be sent on. */
export interface SweepAt {
  query?: string
}

export function readSweep(search: Record<string, unknown>): SweepAt {
  const { query } = search
  return typeof query === 'string' && query !== '' && query.length <= 1_000 ? { query } : {}
}
