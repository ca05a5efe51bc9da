import { useMutation, useQuery } from '@tanstack/react-query'
import { Link, useNavigate, useSearch } from '@tanstack/react-router'
import { useRef, useState } from 'react'
import { answered, client, newKey, type Schemas } from '../../api/client'
import { useAnew } from '../../api/keys'
import { comparedQuery, sessionQuery, siteQuery, sitesQuery } from '../../api/queries'
import { readCompare } from '../../app/compare'
import { useLens } from '../../lens/useLens'
import { Choice } from '../../parts/Choice'
import { Empty } from '../../parts/Empty'
import { PageHead } from '../../parts/PageHead'
import { Tick } from '../../parts/Tick'
import { Told } from '../../parts/Told'
import { Waiting } from '../../parts/Waiting'

type Across = Schemas['AcrossOut']
type Row = Across['rows'][number]

const SURE_ENOUGH = 0.9

/** The same place of several sites side by side, entry by entry; what one lacks is brought over from another. */
export function Compare() {
  const lens = useLens()
  const { sites: named = '', location = '' } = readCompare(useSearch({ strict: false }))
  const chosen = named ? named.split(',') : []
  const navigate = useNavigate()
  const all = useQuery(sitesQuery).data ?? []
  const [first] = chosen
  const base = useQuery({ ...siteQuery(first ?? ''), enabled: first !== undefined })
  const place = location || base.data?.locations[0]?.key || ''
  const found = useQuery(comparedQuery(chosen, place, lens.device))
  const [onlyDiffering, setOnlyDiffering] = useState(false)
  const at = (next: object) =>
    void navigate({ to: '.', replace: true, search: (before: object) => ({ ...before, ...next }) })
  const choose = (sites: readonly string[]) => at({ sites: sites.join(',') || undefined })
  const told = chosen.length > 1 && !found.error ? found.data : undefined
  const rows = told?.rows.filter((row) => !onlyDiffering || row.cells.some((cell) => cell === null)) ?? []
  return (
    <div className="px-[18px] py-3.5">
      <PageHead
        names={['Compare sites']}
        beside={
          told &&
          `${told.rows.filter((row) => row.lacking.length > 0).length} entries that one lacks and most have`
        }
      />
      <p className="mb-2 flex flex-wrap items-baseline gap-x-3 gap-y-1 text-small text-ink-2">
        <span>The place</span>
        <Choice
          aria-label="The place"
          value={place}
          disabled={!base.data}
          options={(base.data?.locations ?? []).map((one) => [one.key, one.title] as const)}
          onChoose={(next) => at({ location: next })}
        />
        <span>of</span>
        {chosen.map((key) => (
          <button
            key={key}
            type="button"
            className="rounded-sign border border-edge bg-plate px-2 text-ink"
            aria-label={`Without ${all.find((one) => one.key === key)?.name ?? key}`}
            onClick={() => choose(chosen.filter((one) => one !== key))}
          >
            {all.find((one) => one.key === key)?.name ?? key} ×
          </button>
        ))}
        <Choice
          aria-label="Another site"
          value=""
          options={all.filter((one) => !chosen.includes(one.key)).map((one) => [one.key, one.name] as const)}
          onChoose={(key) => choose([...chosen, key])}
        >
          <option value="">another site …</option>
        </Choice>
        {told && (
          <Tick checked={onlyDiffering} onTick={setOnlyDiffering}>
            only what not all of them have
          </Tick>
        )}
      </p>
      {found.error && chosen.length > 1 && <Told error={found.error} />}
      {chosen.length < 2 && (
        <Empty says="Choose two sites or more: the place of the first is held against the others." />
      )}
      {chosen.length > 1 && !told && !found.error && <Waiting />}
      {told && <AcrossTable told={told} rows={rows} />}
    </div>
  )
}

function AcrossTable({ told, rows }: { told: Across; rows: readonly Row[] }) {
  const lens = useLens()
  const anew = useAnew()
  const person = useQuery(sessionQuery).data
  const keys = useRef<Record<string, string>>({})
  const bring = useMutation({
    mutationFn: ({ row, to }: { row: Row; to: number }) => {
      const from = row.cells.findIndex((cell) => cell !== null)
      const [source, target] = [told.columns[from], told.columns[to]]
      const body = {
        site: source?.site ?? '',
        menu: source?.menu ?? '',
        item: row.cells[from]?.item ?? '',
        to_site: target?.site ?? '',
        to_menu: target?.menu ?? '',
      }
      const name = JSON.stringify(body)
      keys.current[name] ??= newKey()
      return answered(
        client.POST('/api/compare/bring', {
          body,
          params: { header: { 'idempotency-key': keys.current[name] } },
        }),
      )
    },
    onSettled: () => anew.sites(),
  })
  const mayEdit = (site: string) => person?.may_edit_at[site] ?? person?.may_edit ?? false
  return (
    <>
      <Told error={bring.error} />
      {bring.data && (
        <p role="status" className="mb-2">
          Brought over into a change.{' '}
          <Link to="/changes" search={{ ...lens, change: bring.data.change } as never} className="underline">
            Look at the change
          </Link>
          {bring.data.notes.length > 0 && <span className="text-ink-2"> {bring.data.notes.join('. ')}.</span>}
        </p>
      )}
      <div className="overflow-x-auto">
        <table className="w-full border-collapse text-left text-small">
          <thead>
            <tr className="border-b border-ink">
              {told.columns.map((column) => (
                <th key={column.site} scope="col" className="min-w-[200px] px-2 py-1 align-bottom">
                  {column.menu ? (
                    <Link
                      to="/sites/$site/menus/$menu"
                      params={{ site: column.site, menu: column.menu }}
                      search={lens}
                      className="underline"
                    >
                      {column.name}
                    </Link>
                  ) : (
                    column.name
                  )}
                  <span className="block font-normal text-ink-2">
                    {column.location_title
                      ? `${column.location_title}: ${column.menu_name ?? 'nothing hangs'}`
                      : 'has no place like it'}
                  </span>
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map((row) => (
              <tr key={row.cells.map((cell) => cell?.item).join(' ')} className="border-b border-hair">
                {row.cells.map((cell, at) => {
                  const column = told.columns[at]
                  if (!column) return null
                  return (
                    <td
                      key={column.site}
                      className={`px-2 py-0.5 align-baseline ${!cell && row.lacking.includes(at) ? 'bg-paper-2' : ''}`}
                    >
                      {cell ? (
                        <span className="block truncate" style={{ paddingLeft: (row.level - 1) * 14 }}>
                          {cell.label} <span className="mono text-note text-ink-3">{cell.leads_to}</span>
                          {cell.sure < SURE_ENOUGH && (
                            <span className="text-note text-ink-2">
                              {' '}
                              {Math.round(cell.sure * 100)} % sure
                            </span>
                          )}
                        </span>
                      ) : (
                        <span className="group flex items-baseline gap-2 text-ink-2">
                          {row.lacking.includes(at) ? (
                            'lacks it, most have it'
                          ) : (
                            <span>
                              <span aria-hidden="true">–</span>
                              <span className="sr-only">not here</span>
                            </span>
                          )}
                          {column.menu && mayEdit(column.site) && (
                            <button
                              type="button"
                              disabled={bring.isPending}
                              className={`underline decoration-dashed underline-offset-4 hover:text-ink ${row.lacking.includes(at) ? '' : 'opacity-0 group-hover:opacity-100 focus-visible:opacity-100 pointer-coarse:opacity-100'}`}
                              onClick={() => bring.mutate({ row, to: at })}
                            >
                              bring it over
                            </button>
                          )}
                        </span>
                      )}
                    </td>
                  )
                })}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </>
  )
}
