import { useQuery } from '@tanstack/react-query'
import { Link, useParams } from '@tanstack/react-router'
import { useDeferredValue, useState } from 'react'
import { pagesQuery, reachQuery, siteQuery } from '../../api/queries'
import { DEVICES, type Device } from '../../app/lens'
import { useLens } from '../../app/useLens'
import { Button } from '../../parts/Button'
import { Mark } from '../../parts/Mark'
import { Trouble } from '../../parts/Trouble'
import { useTitle } from '../../parts/useTitle'

/** The site's inventory, and which menus lead to each page. */
export function Pages() {
  const { site } = useParams({ strict: false }) as { site: string }
  const [words, setWords] = useState('')
  const lens = useLens()
  const about = useQuery(siteQuery(site))
  useTitle('Pages', about.data?.name)
  const pages = useQuery(pagesQuery(site, useDeferredValue(words), 500, true))
  const reach = useQuery(reachQuery(site, lens)).data
  const steps = new Map(reach?.pages.map((page) => [page.ref, page.steps]))
  const [only, setOnly] = useState<Device | null>(null)
  const lacked = only && reach ? new Set(reach.lacking[only]) : null
  const listed = pages.data?.filter((page) => !lacked || lacked.has(page.ref)) ?? []
  return (
    <div className="max-w-[1100px] px-[18px] py-3.5">
      <div className="mb-3 flex items-baseline gap-3">
        <h1>
          <Link to="/sites/$site" params={{ site }} search={lens} className="hover:underline">
            {about.data?.name ?? site}
          </Link>{' '}
          › Pages
        </h1>
        <span className="text-ink-2">{about.data?.pages}</span>
        <input
          type="search"
          aria-label="Search pages by title, address or type"
          placeholder="title, address or type"
          value={words}
          onChange={(event) => setWords(event.target.value)}
          className="ml-auto w-64 max-w-full border-b-[1.5px] border-ink-3 bg-transparent px-1 py-0.5"
        />
      </div>
      <Trouble query={pages} />
      <p className="mb-2 flex flex-wrap items-baseline gap-3 text-[13px] text-ink-2">
        Choices from the home page, by device.
        {DEVICES.map((device) => {
          const count = reach?.lacking[device]?.length ?? 0
          return (
            count > 0 && (
              <Button
                key={device}
                small
                aria-pressed={only === device}
                onClick={() => setOnly(only === device ? null : device)}
              >
                {count} that a {device} lacks
              </Button>
            )
          )
        })}
      </p>
      <table className="stacks w-full text-left">
        <caption className="sr-only">Pages of the site</caption>
        <thead className="text-[12px] text-ink-2">
          <tr>
            <th scope="col" className="py-1 font-normal">
              title
            </th>
            <th scope="col" className="font-normal">
              address
            </th>
            <th scope="col" className="font-normal">
              type
            </th>
            {DEVICES.map((device) => (
              <th key={device} scope="col" className="pr-4 text-right font-normal">
                {device}
              </th>
            ))}
            <th scope="col" className="font-normal">
              in menus
            </th>
          </tr>
        </thead>
        <tbody>
          {listed.map((page) => (
            <tr key={page.ref} className="border-t border-hair align-baseline">
              <td className="py-1.5 font-semibold">{Object.values(page.title)[0]}</td>
              <td className="mono text-ink-2">{page.path}</td>
              <td className="text-ink-2">{page.type}</td>
              {DEVICES.map((device) => (
                <td key={device} data-says={device} className="pr-4 text-right">
                  {reach && page.state === 'published' && (
                    <Steps steps={steps.get(page.ref)?.[device] ?? null} />
                  )}
                </td>
              ))}
              <td data-says="in menus">
                {page.places.length ? page.places.join(', ') : <Mark kind="open">in no menu</Mark>}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  )
}

function Steps({ steps }: { steps: number | null }) {
  if (steps === null) return <Mark kind="stop">no way</Mark>
  return steps === 0 ? <span className="text-ink-2">home</span> : <span>{steps}</span>
}
