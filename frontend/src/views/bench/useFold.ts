import { useState } from 'react'
import { useMedia } from '../../parts/useMedia'

const KEY = 'sign-shelf strip'
/** Below this height the outline would have less than half of the screen. */
const SHORT = '(max-height: 779px), (max-width: 899px)'

/** Whether strip, ruler and track are folded to a line: where the screen is short, unless somebody said otherwise. */
export function useFold(): { folded: boolean; fold: (folded: boolean) => void } {
  const short = useMedia(SHORT)
  const [said, setSaid] = useState(() => sessionStorage.getItem(KEY))
  return {
    folded: said === null ? short : said === 'folded',
    fold: (folded) => {
      const next = folded ? 'folded' : 'open'
      // What the screen asks for by itself is no choice that would hold on a taller one.
      if (folded === short) sessionStorage.removeItem(KEY)
      else sessionStorage.setItem(KEY, next)
      setSaid(folded === short ? null : next)
    },
  }
}
