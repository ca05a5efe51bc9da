/** Which sites are compared, and in which place; in the address, so that it can be sent on. */
export interface CompareAt {
  sites?: string
  location?: string
}

export function readCompare(search: Record<string, unknown>): CompareAt {
  const { sites, location } = search
  return {
    ...(typeof sites === 'string' && /^[a-z0-9-]+(,[a-z0-9-]+)*$/.test(sites) ? { sites } : {}),
    ...(typeof location === 'string' && /^[a-z0-9-]{1,64}$/.test(location) ? { location } : {}),
  }
}
