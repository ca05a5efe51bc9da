/**
 * Which menus are at work on a bench, in any of the browser's windows: what a bench is about to save is nobody else's to
 * save. The browser lets go of a window's locks when it closes. Without a secure context there are none (Web Locks API);
 * two saves of one person are then merged by the server.
 */

const nameOf = (person: string, site: string, menu: string): string =>
  `sign-shelf menu ${person} ${site}/${menu}`

const locks: LockManager | undefined = navigator.locks

/** Says that a bench is at work on the menu until what is returned is called. Several windows may be. */
export function holding(person: string, site: string, menu: string): () => void {
  let letGo = () => {}
  const done = new Promise<void>((resolve) => {
    letGo = resolve
  })
  void locks?.request(nameOf(person, site, menu), { mode: 'shared' }, () => done)
  return letGo
}

/** Does it where no bench is at work on the menu; false where one is. */
export async function alone(
  person: string,
  site: string,
  menu: string,
  act: () => Promise<boolean>,
): Promise<boolean> {
  if (!locks) return act()
  return await locks.request(nameOf(person, site, menu), { ifAvailable: true }, (lock) =>
    lock ? act() : Promise.resolve(false),
  )
}
