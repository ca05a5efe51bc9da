import { useQuery } from '@tanstack/react-query'
import { Link } from '@tanstack/react-router'
import { useEffect, useRef } from 'react'
import { liveMenuQuery } from '../../api/queries'
import { useLens } from '../../lens/useLens'
import { flatten } from '../../outline/tree'
import { labelOf, leadsTo } from '../../outline/words'
import { Trouble } from '../../parts/Trouble'
import { Waiting } from '../../parts/Waiting'
import type { Hit } from './found'

const NONE: ReadonlySet<string> = new Set()

interface Props {
  hit: Hit
  /** All entries of the menu that are found, by their ids. */
  found: ReadonlySet<string>
}

/** The menu in which an entry was found, as it is live, with all of its entries that are found marked. */
export function InItsMenu({ hit, found }: Props) {
  const lens = useLens()
  const told = useQuery(liveMenuQuery(hit.site, hit.menu))
  const here = useRef<HTMLLIElement>(null)
  useEffect(() => {
    // What it gives back in newer browsers is no way to clean up.
    void here.current?.scrollIntoView({ block: 'nearest' })
  }, [hit.item, told.data])
  const rows = told.data ? flatten(told.data.document.items ?? [], NONE) : []
  return (
    <>
      <h2>
        <Link
          to="/sites/$site/menus/$menu"
          params={{ site: hit.site, menu: hit.menu }}
          search={lens}
          hash={hit.item}
          className="underline"
        >
          {hit.menu_name}
        </Link>
        <span className="font-normal text-ink-2"> of {hit.site_name}, as it is live</span>
      </h2>
      <Trouble query={told} />
      {!told.data && !told.error && <Waiting />}
      <ol aria-label="The menu" className="text-small">
        {rows.map((row) => {
          const marked = found.has(row.item.id)
          return (
            <li
              key={row.item.id}
              ref={row.item.id === hit.item ? here : undefined}
              aria-current={row.item.id === hit.item ? 'true' : undefined}
              className={`flex gap-2 truncate px-1 ${row.item.id === hit.item ? 'bg-plate outline-[1.5px] -outline-offset-1 outline-ink' : ''} ${marked ? 'font-semibold' : 'text-ink-2'}`}
              style={{ paddingLeft: (row.level - 1) * 16 + 4 }}
            >
              <span className="mono flex-none text-note text-ink-3">{row.number}</span>
              <span className="truncate">
                {labelOf(row.item, lens.language ? [lens.language] : []) || row.item.kind}
              </span>
              <span className="mono truncate text-note font-normal text-ink-3">{leadsTo(row.item)}</span>
            </li>
          )
        })}
      </ol>
    </>
  )
}
