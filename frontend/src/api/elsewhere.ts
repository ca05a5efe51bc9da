/** Where signing in by the identity provider begins; it comes back to where one is. */
export function beginElsewhere(): string {
  const { pathname, search } = window.location
  const kept = new URLSearchParams(search)
  kept.delete('refused')
  const query = kept.toString()
  return `/api/session/elsewhere/begin?back=${encodeURIComponent(query ? `${pathname}?${query}` : pathname)}`
}
