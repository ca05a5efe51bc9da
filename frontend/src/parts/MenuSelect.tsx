import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { siteQuery, sitesQuery } from '../api/queries'
import { Choice } from './Choice'

/** A menu of any site: `site/menu`, or nothing. */
export function MenuSelect(props: {
  except?: string
  value: string
  onChoose: (menu: string) => void
  none: string
}) {
  const sites = useQuery(sitesQuery).data ?? []
  const [site, setSite] = useState(props.value.split('/')[0] ?? '')
  const chosen = useQuery({ ...siteQuery(site), enabled: site !== '' })
  return (
    <>
      <Choice
        aria-label="Another menu's site"
        className="max-w-[180px]"
        value={site}
        onChoose={(value) => {
          setSite(value)
          props.onChoose('')
        }}
      >
        <option value="">{props.none}</option>
        {sites.map((one) => (
          <option key={one.key} value={one.key}>
            {one.name}
          </option>
        ))}
      </Choice>
      {site !== '' && (
        <Choice
          aria-label="Another menu"
          className="max-w-[180px]"
          value={props.value}
          onChoose={(value) => props.onChoose(value)}
        >
          <option value="">its menu</option>
          {chosen.data?.menus.map((menu) => (
            <option
              key={menu.key}
              value={`${site}/${menu.key}`}
              disabled={`${site}/${menu.key}` === props.except}
            >
              {menu.name}
            </option>
          ))}
        </Choice>
      )}
    </>
  )
}
