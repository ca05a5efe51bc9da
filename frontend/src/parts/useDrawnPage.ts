import { type RefObject, useEffect, useRef, useState } from 'react'
import { drawnPage } from './drawn'
import { useAfterPaint } from './useAfterPaint'

interface Asked {
  /** What a screen reader calls the picture. */
  label: string
  /** The server's drawing. */
  html: string
  language: string
  /** Told what was clicked; nothing in the drawing leads anywhere. */
  onClick: (target: Element) => void
  /** Drawn when nothing else is to do: a long drawing takes longer than a key press may wait. */
  unhurried?: boolean
}

interface Drawn {
  /** What the frame is made with: neither our styles nor scripts reach in. Null until what is around it is painted. */
  frame: {
    ref: RefObject<HTMLIFrameElement | null>
    title: string
    sandbox: string
    srcDoc: string
    onLoad: () => void
  } | null
  /** The page in the frame once it is there, and the drawing that it shows. */
  page: Document | null
  drawn: string
}

const AT_LATEST_MS = 1_000

/** A drawing in a frame of its own. */
export function useDrawnPage({ label, html, language, onClick, unhurried = false }: Asked): Drawn {
  const ref = useRef<HTMLIFrameElement>(null)
  const painted = useAfterPaint()
  const [page, setPage] = useState<Document | null>(null)
  const [drawn, setDrawn] = useState('')
  const [srcDoc] = useState(() => drawnPage(label))
  const clicked = useRef(onClick)
  clicked.current = onClick
  useEffect(() => {
    if (!page) return
    const click = (event: Event) => {
      event.preventDefault()
      clicked.current(event.target as Element)
    }
    page.addEventListener('click', click)
    return () => page.removeEventListener('click', click)
  }, [page])
  useEffect(() => {
    if (!page) return
    const draw = () => {
      page.documentElement.lang = language
      page.body.innerHTML = html
      setDrawn(html)
    }
    if (!unhurried) return draw()
    const idle = window.requestIdleCallback(draw, { timeout: AT_LATEST_MS })
    return () => window.cancelIdleCallback(idle)
  }, [page, html, language, unhurried])
  const onLoad = () => setPage(ref.current?.contentDocument ?? null)
  const frame = painted ? { ref, title: label, sandbox: 'allow-same-origin', srcDoc, onLoad } : null
  return { frame, page, drawn }
}
