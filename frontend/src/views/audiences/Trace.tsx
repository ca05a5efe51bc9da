import { useQuery } from '@tanstack/react-query'
import { Link } from '@tanstack/react-router'
import type { Schemas } from '../../api/client'
import { traceQuery } from '../../api/queries'
import type { Lens } from '../../lens/lens'
import { Button } from '../../parts/Button'
import { Mark } from '../../parts/Mark'
import { Scrolled } from '../../parts/Scrolled'
import { Trouble } from '../../parts/Trouble'

interface Props {
  site: string
  location: string
  row: Schemas['SeenRow']
  column: Schemas['Column']
  lens: Lens
  onClose: () => void
}

/** Why one visitor gets an entry, or not: every step of resolving it, in order. */
export function Trace({ site, location, row, column, lens, onClose }: Props) {
  const seen: Lens = { ...lens, device: column.device, language: column.language, facts: undefined }
  if (column.audience !== 'anybody') seen.audience = column.audience
  const steps = useQuery(traceQuery(site, location, row.item, seen))
  return (
    <Scrolled
      label="Why"
      className="max-h-[40vh] border-t border-hair px-4 py-2 lg:max-h-none lg:border-t-0 lg:border-l"
    >
      <h2 className="text-body">
        {row.label}{' '}
        <span className="font-normal text-ink-2">
          for {column.audience} on a {column.device}
        </span>
      </h2>
      <Trouble query={steps} />
      <ol className="mt-2 border-l-[3px] border-wood">
        {steps.data?.map((step, at) => (
          <li key={at} className="mb-1.5 pl-2.5 text-small">
            <span className="block text-note text-ink-2">
              {step.label && `${step.label} · `}
              {step.step}
            </span>
            <Mark kind={step.holds ? 'ok' : 'stop'}>{step.holds ? 'passes' : 'hidden'}</Mark> {step.says}
          </li>
        ))}
      </ol>
      {row.never && <p className="mt-2 text-small">Nobody ever sees it: {row.never}.</p>}
      <p className="mt-3 flex gap-2">
        <Link
          to="/sites/$site/menus/$menu"
          params={{ site, menu: row.menu }}
          search={seen}
          hash={row.item.split('/').at(-1) ?? ''}
          className="text-small underline"
        >
          On the bench, as {column.audience} sees it
        </Link>
        <Button small className="ml-auto" onClick={onClose}>
          Close
        </Button>
      </p>
    </Scrolled>
  )
}
