import { useMedia } from './useMedia'

/** True while the view is laid out for paper: what is otherwise drawn only in sight is drawn whole. */
export const usePrinting = (): boolean => useMedia('print')
