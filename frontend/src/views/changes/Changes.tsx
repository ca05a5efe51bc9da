import { useQuery } from '@tanstack/react-query'
import { useNavigate, useSearch } from '@tanstack/react-router'
import { openChangesQuery } from '../../api/queries'
import { readChange } from '../../app/changes'
import { Empty } from '../../parts/Empty'
import { PageHead } from '../../parts/PageHead'
import { Trouble } from '../../parts/Trouble'
import { useMedia } from '../../parts/useMedia'
import { Waiting } from '../../parts/Waiting'
import { ChangeLines } from './ChangeLines'
import { OneChange } from './OneChange'

/** Changes that are under way at all sites, by where they stand: looked at, remarked on, approved. */
export function Changes() {
  const { change } = readChange(useSearch({ strict: false }))
  const navigate = useNavigate()
  const found = useQuery(openChangesQuery)
  const narrow = useMedia('(max-width: 1023px)')
  const choose = (id: string) =>
    void navigate({ to: '.', replace: true, search: (before: object) => ({ ...before, change: id }) })
  const opened = found.data?.some((one) => one.id === change) ?? false
  const detail = change && found.data ? <OneChange key={change} id={change} /> : null
  return (
    <div className="grid h-full min-h-0 grid-cols-[380px_minmax(0,1fr)] grid-rows-[auto_minmax(0,1fr)] gap-x-5 px-[18px] pt-3.5 max-lg:block max-lg:h-auto print:block">
      <div className="col-span-full">
        <PageHead names={['Changes']} />
        <Trouble query={found} />
      </div>
      {!found.data && !found.error && <Waiting />}
      {found.data && (
        <ChangeLines
          changes={found.data}
          chosen={change ?? null}
          onChoose={choose}
          beneath={narrow && opened ? detail : null}
          empty={<Empty says="Nothing is under way. A change begins with the first edit of a menu." />}
        />
      )}
      {(!narrow || (detail && !opened)) && (
        <section aria-label="The change" className="min-h-0 overflow-auto border-l border-hair pb-4 pl-5">
          {detail ??
            (found.data && found.data.length > 0 && (
              <p className="text-ink-2">Choose one to see what it does.</p>
            ))}
        </section>
      )}
    </div>
  )
}
