import { useRef } from 'react'

/** For what lies over the page and has no opener of its own: once it is gone, the focus is where it was before. */
export function useWayBack(): (event: Event) => void {
  const before = useRef(document.activeElement)
  return (event) => {
    event.preventDefault()
    if (before.current instanceof HTMLElement) before.current.focus()
  }
}
