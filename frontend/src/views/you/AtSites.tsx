import { useQuery } from '@tanstack/react-query'
import type { Schemas } from '../../api/client'
import { sitesQuery } from '../../api/queries'
import { Button } from '../../parts/Button'
import { Choice } from '../../parts/Choice'

type OfSite = Schemas['OfSite']
type Sites = Record<string, OfSite>

interface Props {
  sites: Sites
  /** What is wished everywhere. */
  all: Schemas['Wishes']
  onWish: (sites: Sites) => void
}

const KINDS = [
  ['at_once', 'at once'],
  ['daily', 'once a day'],
] as const

/** Sites of which something else is wished than of all. */
export function AtSites({ sites, all, onWish }: Props) {
  const every = useQuery(sitesQuery).data ?? []
  const others = every.filter((one) => !(one.key in sites))
  const nameOf = (key: string) => every.find((one) => one.key === key)?.name ?? key
  return (
    <div className="text-small">
      <ul>
        {Object.entries(sites).map(([key, wished]) => (
          <li key={key} className="flex flex-wrap items-baseline gap-x-3 border-t border-hair py-0.5">
            <span className="w-[180px] truncate font-semibold">{nameOf(key)}</span>
            {KINDS.map(([kind, says]) => (
              <label key={kind} className="flex items-baseline gap-1">
                {says}
                <Choice
                  aria-label={`${nameOf(key)}, ${says}`}
                  value={said(wished[kind])}
                  onChoose={(value) => onWish({ ...sites, [key]: { ...wished, [kind]: meant(value) } })}
                  options={[
                    ['', `as everywhere (${(all[kind] ?? true) ? 'told' : 'not told'})`],
                    ['yes', 'told'],
                    ['no', 'not told'],
                  ]}
                />
              </label>
            ))}
            <Button
              small
              tone="quiet"
              className="ml-auto"
              aria-label={`As everywhere at ${nameOf(key)}`}
              onClick={() => onWish(Object.fromEntries(Object.entries(sites).filter(([one]) => one !== key)))}
            >
              as everywhere
            </Button>
          </li>
        ))}
      </ul>
      {others.length > 0 && (
        <Choice
          aria-label="A site of which something else is wished"
          value=""
          onChoose={(key) => key && onWish({ ...sites, [key]: {} })}
          options={[
            ['', 'Something else of one site …'],
            ...others.map((one) => [one.key, one.name] as const),
          ]}
        />
      )}
    </div>
  )
}

const said = (wished: boolean | null | undefined) => (wished == null ? '' : wished ? 'yes' : 'no')
const meant = (value: string) => (value === '' ? null : value === 'yes')
