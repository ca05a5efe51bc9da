/** Which shared menu is open; in the address, so that it can be sent on. */
export interface SharedAt {
  menu?: string
}

export function readShared(search: Record<string, unknown>): SharedAt {
  const { menu } = search
  return typeof menu === 'string' && /^[a-z0-9-]{1,64}$/.test(menu) ? { menu } : {}
}
