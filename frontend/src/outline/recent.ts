/** The pages that were chosen last on a site, newest first: offered before anything is typed. */
const KEPT = 6
const keyOf = (site: string): string => `sign-shelf recent ${site}`

export function recentPages(site: string): string[] {
  try {
    return JSON.parse(localStorage.getItem(keyOf(site)) ?? '[]')
  } catch {
    return []
  }
}

export function choseRecently(site: string, ref: string): void {
  const next = [ref, ...recentPages(site).filter((one) => one !== ref)].slice(0, KEPT)
  localStorage.setItem(keyOf(site), JSON.stringify(next))
}
