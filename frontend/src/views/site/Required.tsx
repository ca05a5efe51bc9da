import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import type { Schemas } from '../../api/client'
import { pagesQuery } from '../../api/queries'
import { Button } from '../../parts/Button'
import { Choice } from '../../parts/Choice'

type ByPlace = Record<string, string[]>

interface Props {
  site: Schemas['SitePage']
  required: ByPlace
  onChange: (required: ByPlace) => void
}

/** Pages that places must lead to, by law or by the client: where one is missing, that is a finding. */
export function Required({ site, required, onChange }: Props) {
  const pages = useQuery(pagesQuery(site.key, '', 500)).data ?? []
  const [place, setPlace] = useState(site.locations[0]?.key ?? '')
  const [page, setPage] = useState('')
  const titled = (ref: string) => {
    const found = pages.find((one) => one.ref === ref)
    return found ? (Object.values(found.title)[0] ?? found.path) : `@${ref}`
  }
  const put = (at: string, refs: string[]) =>
    onChange(
      Object.fromEntries(Object.entries({ ...required, [at]: refs }).filter(([, some]) => some.length)),
    )
  const there = required[place] ?? []
  return (
    <section aria-label="Required pages" className="mt-3">
      <h3 className="font-bold">Pages that must be led to</h3>
      <ul>
        {site.locations.flatMap((location) =>
          (required[location.key] ?? []).map((ref) => (
            <li
              key={`${location.key} ${ref}`}
              className="flex items-baseline gap-2 border-t border-hair py-0.5"
            >
              <span className="min-w-0 flex-1">
                {titled(ref)} <span className="text-ink-2">from {location.title}</span>
              </span>
              <Button
                small
                tone="quiet"
                aria-label={`${titled(ref)} need not be in ${location.title}`}
                onClick={() =>
                  put(
                    location.key,
                    (required[location.key] ?? []).filter((one) => one !== ref),
                  )
                }
              >
                take away
              </Button>
            </li>
          )),
        )}
      </ul>
      <span className="flex flex-wrap items-baseline gap-2 pt-1">
        <Choice
          aria-label="Place that must lead to a page"
          value={place}
          onChoose={setPlace}
          options={site.locations.map((one) => [one.key, one.title] as const)}
        />
        <Choice
          aria-label="Page that must be led to"
          className="w-[170px]"
          value={page}
          onChoose={setPage}
          options={[['', 'which page'], ...pages.map((one) => [one.ref, titled(one.ref)] as const)]}
        />
        <Button
          small
          disabled={!page || there.includes(page)}
          onClick={() => {
            put(place, [...there, page])
            setPage('')
          }}
        >
          Add
        </Button>
      </span>
    </section>
  )
}
