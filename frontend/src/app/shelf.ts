/** Which sites the shelf shows, in what order and how; in the address, so that a view can be kept and sent on. */
export const SHOWS = ['wants me', 'broken', 'drifted', 'this week', 'mine'] as const
export type Show = (typeof SHOWS)[number]
export const ORDERS = ['by name', 'by trouble', 'by template', 'by client', 'by team'] as const
export type Order = (typeof ORDERS)[number]

export interface ShelfAt {
  show?: Show
  order?: Order
  dense?: boolean
  /** Words that the names of the sites hold. */
  find?: string
}

export function readShelf(search: Record<string, unknown>): ShelfAt {
  const show = SHOWS.find((one) => one === search.show)
  const order = ORDERS.find((one) => one === search.order && one !== 'by name')
  return {
    ...(show ? { show } : {}),
    ...(order ? { order } : {}),
    ...(search.dense === true ? { dense: true } : {}),
    ...(typeof search.find === 'string' && search.find ? { find: search.find.slice(0, 200) } : {}),
  }
}
