import { useRouterState } from '@tanstack/react-router'
import { useEffect, useState } from 'react'
import { Button } from '../parts/Button'
import { Scrolled } from '../parts/Scrolled'
import { Sheet } from '../parts/Sheet'
import { ASK_KEY, KEY_MAP } from './keyMap'

const TYPING = 'input:not([type=checkbox], [type=radio]), textarea, select, [contenteditable]'

/** All keys at one place, those of the open view first: asked for by a key, or from beside the lens. */
export function AllKeys() {
  const [open, setOpen] = useState(false)
  const path = useRouterState({ select: (state) => state.location.pathname })
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
  const here = [...KEY_MAP].sort((one, other) => Number(other.at?.test(path)) - Number(one.at?.test(path)))
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
        <Sheet
          title="Keys"
          onOpen={setOpen}
          className="h-[640px] w-[860px] grid-rows-[auto_minmax(0,1fr)] gap-3 p-5"
          beside={
            <Button small className="ml-auto" onClick={() => setOpen(false)}>
              Close
            </Button>
          }
        >
          <Scrolled label="All keys" className="min-h-0">
            <div className="columns-2 gap-8 max-sm:columns-1">
              {here.map(({ where, rules }) => (
                <section key={where} className="mb-4">
                  <h2 className="break-after-avoid">{where}</h2>
                  <dl className="grid grid-cols-[140px_1fr] gap-x-2 gap-y-0.5 text-small">
                    {rules.map((rule) => (
                      <div key={`${rule.keys} ${rule.says}`} className="contents">
                        <dt className="mono text-ink-2">{rule.keys.replaceAll('Arrow', '')}</dt>
                        <dd>{rule.says}</dd>
                      </div>
                    ))}
                  </dl>
                </section>
              ))}
            </div>
          </Scrolled>
        </Sheet>
      )}
    </>
  )
}
