import { useRouterState } from '@tanstack/react-router'
import { Button } from '../parts/Button'
import { Scrolled } from '../parts/Scrolled'
import { Sheet } from '../parts/Sheet'
import { KEY_MAP } from './keyMap'

/** Every key, by where it means something. */
export default function KeysSheet({ onOpen }: { onOpen: (open: boolean) => void }) {
  const path = useRouterState({ select: (state) => state.location.pathname })
  const here = [...KEY_MAP].sort((one, other) => Number(other.at?.test(path)) - Number(one.at?.test(path)))
  return (
    <Sheet
      title="Keys"
      onOpen={onOpen}
      className="h-[640px] w-[860px] grid-rows-[auto_minmax(0,1fr)] gap-3 p-5"
      beside={
        <Button small className="ml-auto" onClick={() => onOpen(false)}>
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
  )
}
