/** Whether somebody has put the cursor into the view by now, or has something open over it: then it stays there. Who came by
 * a link, or by name, goes on where the view begins. */
export function isAtWork(): boolean {
  const at = document.activeElement
  return Boolean(at?.closest('main :not(h1), [role=dialog][data-state=open], [role=alertdialog]'))
}
