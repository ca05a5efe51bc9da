type Seen = 'whole' | 'part' | 'none'

const SQUARES: Record<Seen, string> = {
  whole: 'p-(--square) bg-ink bg-clip-content',
  part: 'bg-[linear-gradient(135deg,var(--ink)_50%,transparent_50%)] bg-[length:11px_11px] bg-center bg-no-repeat',
  none: 'p-(--line) bg-ink-3 bg-clip-content',
}
const ROUNDS: Record<Seen, string> = {
  whole:
    'bg-[radial-gradient(circle_closest-side,var(--ink)_92%,transparent)] bg-[length:13px_13px] bg-center bg-no-repeat',
  part: 'bg-[radial-gradient(circle_at_right,var(--ink)_6px,transparent_6.5px)] bg-[length:6.5px_13px] bg-center bg-no-repeat',
  none: SQUARES.none,
}

/** Seen: a filled mark; seen in part: half of it; not seen: a line. Round where it is in another place. The mark is the
 * ground of whatever has the classes and a size of its own, so that a matrix of marks is light to draw. */
export const seenMark = (seen: Seen, moved: boolean): string => (moved ? ROUNDS : SQUARES)[seen]

/** What makes the marks of a box of this size 11 pixels wide. */
export const markSize = (width: number, height: number) => ({
  '--square': `${(height - 11) / 2}px ${(width - 11) / 2}px`,
  '--line': `${(height - 1.5) / 2}px ${(width - 8) / 2}px`,
})

export const SEEN_WORDS = { whole: 'seen', part: 'seen in part', none: 'not seen' } as const
