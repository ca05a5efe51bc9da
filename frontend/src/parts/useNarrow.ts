import { useSyncExternalStore } from 'react'

const NARROW = window.matchMedia('(max-width: 899px)')

function onNarrow(changed: () => void): () => void {
  NARROW.addEventListener('change', changed)
  return () => NARROW.removeEventListener('change', changed)
}

/** Whether two things beside each other would leave neither enough room. */
export const useNarrow = (): boolean => useSyncExternalStore(onNarrow, () => NARROW.matches)
