/** Where signing in by the identity provider begins; it comes back to where one is. */
export function beginElsewhere(): string {
  const { pathname, search } = window.location
  return `/api/session/elsewhere/begin?back=${encodeURIComponent(`${pathname}${search}`)}`
}
