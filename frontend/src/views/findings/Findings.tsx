import { useMutation, useQuery } from '@tanstack/react-query'
import { Link, useNavigate, useSearch } from '@tanstack/react-router'
import { useState } from 'react'
import { answered, client } from '../../api/client'
import { useAnew } from '../../api/keys'
import { causesQuery, sessionQuery, sitesQuery } from '../../api/queries'
import { type FindingsAt, readFindings } from '../../app/findings'
import { readLens } from '../../lens/lens'
import { useLens } from '../../lens/useLens'
import { Button } from '../../parts/Button'
import { Choice } from '../../parts/Choice'
import { Empty } from '../../parts/Empty'
import { PageHead } from '../../parts/PageHead'
import { Told } from '../../parts/Told'
import { Trouble } from '../../parts/Trouble'
import { when } from '../../parts/times'
import { useMedia } from '../../parts/useMedia'
import { Waiting } from '../../parts/Waiting'
import { Words } from '../../parts/Words'
import { Ahead } from './Ahead'
import { CauseLines } from './CauseLines'
import { FAMILIES, type Line, nameOf, SEVERITIES, type Severity } from './kinds'
import { OneCause } from './OneCause'

const SHOWN = ['open', 'waived', 'gone'] as const
type Shown = (typeof SHOWN)[number]

/** What checks found on all sites, by cause: seen to, waived, and mended once for everywhere it is. */
export function Findings() {
  const [shown, setShown] = useState<Shown>('open')
  const { site = '', code, cause } = readFindings(useSearch({ strict: false }))
  const lens = useLens()
  const navigate = useNavigate()
  const [family, setFamily] = useState('')
  const [owner, setOwner] = useState('')
  const [severity, setSeverity] = useState<Severity | null>(null)
  const at = (next: FindingsAt) =>
    void navigate({ to: '.', replace: true, search: (before: object) => ({ ...before, ...next }) })
  const choose = (line: Line | null) => at({ code: line?.code, cause: line?.cause })
  const found = useQuery(causesQuery(shown, site || undefined))
  const sites = useQuery(sitesQuery).data ?? []
  const me = useQuery(sessionQuery).data
  const lines = found.data?.lines ?? []
  const owners = [...new Set(lines.flatMap((line) => line.owner ?? []))].sort()
  const listed = lines.filter(
    (line) =>
      (!severity || line.severity === severity) &&
      (!family || line.family === family) &&
      (!owner || (owner === 'nobody' ? line.owner === null : line.owner === owner)),
  )
  const opened = listed.find((line) => line.code === code && line.cause === cause) ?? null
  // Beside the lines where there is room, else beneath the one that is open.
  const narrow = useMedia('(max-width: 1023px)')
  const detail = opened && shown !== 'gone' ? <OneCause key={nameOf(opened)} line={opened} /> : null
  return (
    <div className="grid h-full min-h-0 grid-cols-[minmax(0,1fr)_350px] grid-rows-[auto_minmax(0,1fr)] gap-x-5 px-[18px] pt-3.5 max-lg:block max-lg:h-auto print:block">
      <div className="col-span-full">
        <PageHead names={['Findings']}>
          {found.data && <Checked site={site || null} found={found.data} />}
          <Link to="/placeholders" search={readLens} className="text-small underline">
            Placeholders
          </Link>
        </PageHead>
        <div className="mb-2 flex flex-wrap items-baseline gap-x-3 gap-y-1 text-small text-ink-2 print:hidden">
          {!lens.at && (
            <>
              {SEVERITIES.map((one) => (
                <button
                  key={one.severity}
                  type="button"
                  aria-pressed={severity === one.severity}
                  onClick={() => setSeverity(severity === one.severity ? null : one.severity)}
                  className="min-h-6 rounded-sign border border-edge bg-plate px-2 text-ink aria-pressed:border-ink aria-pressed:bg-ink aria-pressed:text-paper"
                >
                  <b>{found.data?.counts[one.severity] ?? 0}</b> {one.says}
                </button>
              ))}
              <Narrowing says="of" none="any kind" value={family} options={FAMILIES} onChoose={setFamily} />
            </>
          )}
          <Narrowing
            says="at"
            none="any site"
            value={site}
            options={sites.map((one) => [one.key, one.name] as const)}
            onChoose={(next) => at({ site: next || undefined })}
          />
          {!lens.at && (
            <>
              <Narrowing
                says="given to"
                none="anybody"
                value={owner}
                options={[...(me && !owners.includes(me.name) ? [me.name] : []), ...owners, 'nobody']}
                onChoose={setOwner}
              />
              <Words
                name="Which are shown"
                value={shown}
                options={SHOWN}
                onChoose={(next) => {
                  setShown(next)
                  choose(null)
                }}
                dotted
              />
            </>
          )}
        </div>
        <Trouble query={found} />
      </div>
      {lens.at ? (
        <Ahead site={site || undefined} />
      ) : found.data ? (
        <CauseLines
          lines={listed}
          more={found.data.more}
          shown={shown}
          chosen={opened}
          onChoose={choose}
          beneath={narrow ? detail : null}
          empty={<Empty says={EMPTY[shown]} />}
        />
      ) : (
        !found.error && <Waiting />
      )}
      {!narrow && !lens.at && (
        <aside aria-label="The finding" className="min-h-0 overflow-auto border-l border-hair pb-4 pl-5">
          {detail ??
            (listed.length > 0 && shown !== 'gone' && (
              <p className="text-ink-2">Choose one to see where it is and to mend it.</p>
            ))}
        </aside>
      )}
    </div>
  )
}

const EMPTY: Record<Shown, string> = {
  open: 'Nothing is found that answers to this.',
  waived: 'Nothing is waived.',
  gone: 'Nothing went in the last fourteen days.',
}

type Option = string | readonly [value: string, says: string]

function Narrowing(props: {
  says: string
  none: string
  value: string
  options: readonly Option[]
  onChoose: (value: string) => void
}) {
  return (
    <label className="flex items-baseline gap-1.5">
      {props.says}
      <Choice aria-label={props.says} value={props.value} options={props.options} onChoose={props.onChoose}>
        <option value="">{props.none}</option>
      </Choice>
    </label>
  )
}

interface CheckedProps {
  site: string | null
  found: { links: { addresses: number; due: number; asked_at: string | null }; unchecked: number }
}

/** How far the asking is, and the way to ask again; one need not wait for it. */
function Checked({ site, found }: CheckedProps) {
  const anew = useAnew()
  const check = useMutation({
    mutationFn: () => answered(client.POST('/api/findings/check', { body: { site } })),
    onSuccess: () => anew.sites(),
  })
  const { links, unchecked } = found
  const at = links.asked_at ? `asked ${when(links.asked_at)}` : 'not asked yet'
  const says =
    links.due > 0
      ? `asking: ${links.due} of ${links.addresses} addresses to go`
      : unchecked > 0
        ? `looking at ${unchecked === 1 ? '1 site' : `${unchecked} sites`} again`
        : `${links.addresses} addresses, ${at}`
  return (
    <>
      <span role="status" className="text-small text-ink-2 tabular-nums">
        {says}
      </span>
      <Button small disabled={check.isPending || links.due > 0} onClick={() => check.mutate()}>
        Check now
      </Button>
      {check.error && <Told error={check.error} />}
    </>
  )
}
