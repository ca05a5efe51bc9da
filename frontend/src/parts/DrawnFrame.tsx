import { useEffect, useRef, useState } from 'react'
import { drawnPage } from './drawn'
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
  const frame = useRef<HTMLIFrameElement>(null)
  const [box, space] = useSize()
  const scale = width > 0 ? Math.min(1, space.width / width) : 1
  const [ready, setReady] = useState(false)
  const clicked = useRef(onPlace)
  clicked.current = onPlace
  useEffect(() => {
    const page = ready ? frame.current?.contentDocument : null
    if (!page) return
    page.documentElement.lang = language
    page.body.innerHTML = html
    if (here) page.querySelector(`[data-location="${CSS.escape(here)}"]`)?.setAttribute('data-here', '')
    if (hold !== 'normal') page.querySelector('.level-1 > .entry')?.setAttribute('data-state', hold)
  }, [ready, html, language, here, hold])
  useEffect(() => {
    const page = ready ? frame.current?.contentDocument : null
    if (!page) return
    const click = (event: Event) => {
      event.preventDefault()
      const target = event.target as Element
      const place = target.closest('[data-location]')?.getAttribute('data-location')
      const entry = target.closest('[data-entry]')?.getAttribute('data-entry')
      if (place) clicked.current?.(place, entry?.split(/[:/]/)[0] ?? null)
    }
    page.addEventListener('click', click)
    return () => page.removeEventListener('click', click)
  }, [ready])
  return (
    <div ref={box} className={`relative overflow-hidden border border-hair bg-white ${className}`}>
      <iframe
        ref={frame}
        title={label}
        // A picture: nothing in it takes a key, and the end of a sheet must not be a place that keys do not come back from.
        tabIndex={-1}
        sandbox="allow-same-origin"
        srcDoc={drawnPage(label)}
        onLoad={() => setReady(true)}
        className="absolute top-0 left-0 origin-top-left border-0"
        style={{ width, height: scale > 0 ? space.height / scale : 0, transform: `scale(${scale})` }}
      />
    </div>
  )
}
