import { useQuery } from '@tanstack/react-query'
import { useNavigate, useSearch } from '@tanstack/react-router'
import { useState } from 'react'
import { sessionQuery, sharedMenuQuery, sharedMenusQuery } from '../../api/queries'
import { readShared } from '../../app/shared'
import { Button } from '../../parts/Button'
import { Empty } from '../../parts/Empty'
import { Mark } from '../../parts/Mark'
import { PageHead } from '../../parts/PageHead'
import { Trouble } from '../../parts/Trouble'
import { Waiting } from '../../parts/Waiting'
import { Followers } from './Followers'
import { NewShared } from './NewShared'
import { Written } from './Written'

/** Menus that the agency shares: what stands in them, which sites follow them, and rolling those forward. */
export function Shared() {
  const { menu: chosen } = readShared(useSearch({ strict: false }))
  const navigate = useNavigate()
  const mayEdit = useQuery(sessionQuery).data?.may_edit ?? false
  const listed = useQuery(sharedMenusQuery)
  const [beginning, setBeginning] = useState(false)
  const open = chosen ?? listed.data?.[0]?.key
  const choose = (menu: string) => {
    setBeginning(false)
    void navigate({ to: '.', replace: true, search: (before: object) => ({ ...before, menu }) })
  }
  const behind = listed.data?.reduce((sum, one) => sum + one.behind, 0) ?? 0
  return (
    <div className="grid h-full min-h-0 grid-cols-[240px_minmax(0,1fr)] grid-rows-[auto_minmax(0,1fr)] gap-x-5 px-[18px] pt-3.5 max-lg:block max-lg:h-auto">
      <div className="col-span-full">
        <PageHead
          names={['Shared menus']}
          beside={
            listed.data &&
            (behind > 0
              ? `${behind === 1 ? '1 site has' : `${behind} sites have`} an older version`
              : 'one menu for many sites, each with what is its own')
          }
        >
          {mayEdit && (
            <Button small onClick={() => setBeginning(true)}>
              Begin a shared menu
            </Button>
          )}
        </PageHead>
        <Trouble query={listed} />
        {!listed.data && !listed.error && <Waiting />}
      </div>
      <ul aria-label="Shared menus" className="min-h-0 overflow-auto pb-4">
        {listed.data?.map((one) => (
          <li key={one.key} className="border-b border-hair">
            <button
              type="button"
              aria-pressed={!beginning && one.key === open}
              onClick={() => choose(one.key)}
              className="grid w-full gap-x-3 rounded-sign px-2 py-1.5 text-left hover:bg-paper-2 aria-pressed:bg-plate aria-pressed:outline-[1.5px] aria-pressed:-outline-offset-1 aria-pressed:outline-ink"
            >
              <b className="truncate">{one.name}</b>
              <span className="text-small text-ink-2">
                version {one.version} · {one.entries === 1 ? '1 entry' : `${one.entries} entries`} ·{' '}
                {one.followers === 1 ? '1 site' : `${one.followers} sites`}
              </span>
              {one.behind > 0 && <Mark kind="waiting">{one.behind} behind</Mark>}
            </button>
          </li>
        ))}
      </ul>
      {beginning || listed.data?.length === 0 ? (
        mayEdit ? (
          <NewShared onMade={choose} />
        ) : (
          <Empty says="The agency shares no menu yet." />
        )
      ) : (
        open && <One key={open} menu={open} mayEdit={mayEdit} />
      )}
    </div>
  )
}

function One({ menu, mayEdit }: { menu: string; mayEdit: boolean }) {
  const found = useQuery(sharedMenuQuery(menu))
  if (!found.data)
    return (
      <div>
        <Trouble query={found} />
        {!found.error && <Waiting />}
      </div>
    )
  return (
    <div className="grid min-h-0 grid-cols-[minmax(0,5fr)_minmax(0,6fr)] gap-x-5 border-l border-hair pl-5 max-lg:block max-lg:border-0 max-lg:pl-0">
      <Written shared={found.data} mayEdit={mayEdit} />
      <Followers shared={found.data} mayEdit={mayEdit} />
    </div>
  )
}
