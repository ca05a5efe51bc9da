import { useEffect } from 'react'
import { useDrawnPage } from '../../parts/useDrawnPage'
import { useSize } from '../../parts/useSize'

/** States that can be held, so that they can be looked at without a steady hand. */
export const HOLDS = ['normal', 'hover', 'current', 'open'] as const
export type Hold = (typeof HOLDS)[number]

interface Props {
  /** The place as the server draws it. */
  html: string
  /** What a screen reader calls the picture. */
  label: string
  language: string
  /** The narrowest viewport of the device, in CSS pixels: narrower frames draw it smaller. */
  atLeast: number
  /** The viewport width to draw, where one was chosen. */
  at?: number | null
  /** Below this width the drawer has taken over. */
  drawerBelow?: number | null
  /** Told the width that is drawn and its scale whenever they change. */
  onWidth: (px: number, scale: number) => void
  /** Only its first line, where the screen has the height for it. */
  low?: boolean
  /** The chosen item, marked where it shows. */
  chosen: string | null
  hold: Hold
  onItem: (id: string) => void
}

/** A place in a frame of its own: neither our styles nor scripts reach in, and nothing in it leads anywhere. */
export function StripFrame({
  html,
  label,
  language,
  atLeast,
  at,
  drawerBelow,
  low = false,
  onWidth,
  chosen,
  hold,
  onItem,
}: Props) {
  const [box, space] = useSize()
  const width = at ?? Math.max(atLeast, space.width)
  const scale = width > 0 ? Math.min(1, space.width / width) : 1
  useEffect(() => onWidth(Math.round(width), scale), [onWidth, width, scale])
  const { frame, page, drawn } = useDrawnPage({
    label,
    html,
    language,
    unhurried: true,
    onClick: (target) => {
      const entry = target.closest('[data-entry]')?.getAttribute('data-entry')
      if (entry) onItem(entry.split(/[:/]/)[0] ?? entry)
    },
  })
  // Marked from outside: choosing another line must not draw a menu of two thousand entries again.
  useEffect(() => {
    if (!page || !drawn) return
    const entry =
      (chosen && page.querySelector(`[data-entry="${CSS.escape(chosen)}"]`)) ||
      (hold === 'normal' || hold === 'open' ? null : page.querySelector('.level-1 > .entry'))
    if (!entry) return
    const marked: Element[] = []
    const mark = (one: Element, state: string) => {
      one.setAttribute('data-state', `${one.getAttribute('data-state') ?? ''} ${state}`.trim())
      marked.push(one)
    }
    if (chosen) entry.setAttribute('data-chosen', '')
    if (hold === 'hover' || hold === 'current') mark(entry, hold)
    const nested = entry.parentElement?.closest('.entry')
    if (hold === 'open' || (nested && hold !== 'normal')) {
      for (let at: Element | null = entry; at; at = at.parentElement?.closest('.entry') ?? null)
        mark(at, 'open')
    }
    if (nested) entry.scrollIntoView({ block: 'nearest' })
    return () => {
      entry.removeAttribute('data-chosen')
      for (const one of marked) one.removeAttribute('data-state')
    }
  }, [page, drawn, chosen, hold])

  useEffect(() => {
    const place = drawn ? page?.querySelector('.place') : null
    place?.classList.toggle('is-drawer', drawerBelow != null && width < drawerBelow)
  }, [page, drawn, drawerBelow, width])

  return (
    <div
      ref={box}
      className={`relative overflow-hidden rounded-t-sign border border-b-0 border-hair bg-white ${low ? 'mt-1 h-[44px] flex-none [@media(max-height:599px)]:hidden' : 'min-h-0 flex-1'}`}
    >
      {frame && (
        <iframe
          {...frame}
          className="absolute top-0 left-0 origin-top-left border-0"
          style={{ width, height: space.height / scale, transform: `scale(${scale})` }}
        />
      )}
    </div>
  )
}
