import { useEffect } from 'react'
import { useDrawnPage } from './useDrawnPage'
import { useSize } from './useSize'

interface Props {
  /** The server's drawing. */
  html: string
  /** What a screen reader calls the picture. */
  label: string
  language: string
  /** CSS pixels that the drawing is wide; it is drawn smaller where there is less room. */
  width: number
  /** Told which place or entry was clicked. */
  onPlace?: (location: string, item: string | null) => void
  /** The place that is shown marked. */
  here?: string | null
  /** A state of the first entry that is held. */
  hold?: 'normal' | 'hover' | 'current' | 'open'
  className?: string
}

/** A drawing in a frame of its own: neither our styles nor scripts reach in, and nothing in it leads anywhere. */
export function DrawnFrame(props: Props) {
  const { html, label, language, width, onPlace, here, hold = 'normal', className = '' } = props
  const [box, space] = useSize()
  const scale = width > 0 ? Math.min(1, space.width / width) : 1
  const { frame, page, drawn } = useDrawnPage({
    label,
    html,
    language,
    onClick: (target) => {
      const place = target.closest('[data-location]')?.getAttribute('data-location')
      const entry = target.closest('[data-entry]')?.getAttribute('data-entry')
      if (place) onPlace?.(place, entry?.split(/[:/]/)[0] ?? null)
    },
  })
  useEffect(() => {
    if (!page || !drawn) return
    const place = here ? page.querySelector(`[data-location="${CSS.escape(here)}"]`) : null
    const entry = hold === 'normal' ? null : page.querySelector('.level-1 > .entry')
    place?.setAttribute('data-here', '')
    entry?.setAttribute('data-state', hold)
    return () => {
      place?.removeAttribute('data-here')
      entry?.removeAttribute('data-state')
    }
  }, [page, drawn, here, hold])
  return (
    <div ref={box} className={`relative overflow-hidden border border-hair bg-white ${className}`}>
      {frame && (
        <iframe
          {...frame}
          // A picture: nothing in it takes a key, and the end of a sheet must not be a place that keys do not come back from.
          tabIndex={-1}
          className="absolute top-0 left-0 origin-top-left border-0"
          style={{ width, height: scale > 0 ? space.height / scale : 0, transform: `scale(${scale})` }}
        />
      )}
    </div>
  )
}
