/** Which change is open beside the others. */
export interface ChangeAt {
  change?: string
}

export function readChange(search: Record<string, unknown>): ChangeAt {
  const { change } = search
  return typeof change === 'string' && /^[0-9a-f-]{36}$/.test(change) ? { change } : {}
}
