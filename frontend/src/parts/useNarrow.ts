import { useMedia } from './useMedia'

/** Whether two things beside each other would leave neither enough room. */
export const useNarrow = (): boolean => useMedia('(max-width: 899px)')
