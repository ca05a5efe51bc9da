import { lazy, Suspense, useEffect, useState } from 'react'

const KeysSheet = lazy(() => import('./KeysSheet'))

const ASK_KEY = '?'
const TYPING = 'input:not([type=checkbox], [type=radio]), textarea, select, [contenteditable]'

/** All keys at one place, those of the open view first: asked for by a key, or from beside the lens. */
export function AllKeys() {
  const [open, setOpen] = useState(false)
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      if (event.key !== ASK_KEY || event.ctrlKey || event.metaKey || event.altKey) return
      if (event.defaultPrevented || (event.target instanceof Element && event.target.closest(TYPING))) return
      event.preventDefault()
      setOpen(true)
    }
    window.addEventListener('keydown', press)
    return () => window.removeEventListener('keydown', press)
  }, [])
  return (
    <>
      <button
        type="button"
        aria-label="All keys"
        title={ASK_KEY}
        onClick={() => setOpen(true)}
        className="min-h-6 min-w-6 text-ink-2 hover:text-ink"
      >
        {ASK_KEY}
      </button>
      {open && (
        <Suspense>
          <KeysSheet onOpen={setOpen} />
        </Suspense>
      )}
    </>
  )
}
