import { useInfiniteQuery, useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { answered, client, type Schemas } from '../../api/client'
import { keys } from '../../api/keys'
import { historyQuery } from '../../api/queries'
import { flatten, type MenuDocument } from '../../outline/tree'
import { labelOf, leadsTo } from '../../outline/words'
import { Button } from '../../parts/Button'
import { Mark } from '../../parts/Mark'
import { MenuSelect } from '../../parts/MenuSelect'
import { Scrolled } from '../../parts/Scrolled'
import { Sheet } from '../../parts/Sheet'
import { Told } from '../../parts/Told'
import { Trouble } from '../../parts/Trouble'
import { when } from '../../parts/times'

interface Props {
  bench: Schemas['BenchPage']
  languages: readonly string[]
  editable: boolean
  onOpen: (open: boolean) => void
  /** Brings an earlier state back, as an edit. */
  onBack: (document: MenuDocument, says: string) => void
}

type Entry = Schemas['HistoryEntry']

/** The menu's past: look at any state, compare any two, bring one back; or compare it with another menu. */
export function Past({ bench, languages, editable, onOpen, onBack }: Props) {
  const site = bench.site.key
  const language = languages[0] ?? 'en'
  const history = useInfiniteQuery(historyQuery(site, bench.key, language))
  const entries = history.data?.pages.flatMap((page) => page.entries) ?? []
  const [looked, setLooked] = useState<number | null>(null)
  const [other, setOther] = useState<number | null>(null)
  const [twin, setTwin] = useState('')
  const shown = entries.find((one) => one.revision === looked) ?? entries[0]
  const against = entries.find((one) => one.revision === other)
  return (
    <Sheet
      title={`The past of ${bench.document.name}`}
      onOpen={onOpen}
      className="h-[640px] w-[1060px] grid-cols-[400px_1fr] grid-rows-[auto_1fr] [&>header]:border-b [&>header]:border-hair [&>header]:px-5 [&>header]:py-3"
      beside={
        <>
          <Twins own={`${site}/${bench.key}`} chosen={twin} onChoose={setTwin} />
          <Button small className="ml-auto" onClick={() => onOpen(false)}>
            Close
          </Button>
        </>
      }
    >
      <ol className="min-h-0 overflow-auto border-r border-hair py-1">
        <Trouble query={history} />
        {entries.map((entry) => (
          <li key={entry.revision}>
            <EntryLine
              entry={entry}
              shown={!twin && entry.revision === shown?.revision}
              compared={entry.revision === other}
              onLook={() => {
                setTwin('')
                setLooked(entry.revision)
              }}
              onCompare={() => {
                setTwin('')
                setOther(other === entry.revision ? null : entry.revision)
              }}
            />
          </li>
        ))}
        {history.hasNextPage && (
          <li className="px-5 py-2">
            <Button small onClick={() => history.fetchNextPage()} disabled={history.isFetchingNextPage}>
              Earlier
            </Button>
          </li>
        )}
      </ol>
      <Scrolled label="The state looked at" className="px-5 py-3">
        {twin ? (
          <Against key={twin} bench={bench} twin={twin} language={language} />
        ) : (
          shown && (
            <Looked
              key={`${shown.revision} ${against?.revision}`}
              bench={bench}
              entry={shown}
              against={against && against.revision !== shown.revision ? against : null}
              languages={languages}
              editable={editable}
              onBack={(document) => {
                onBack(document, `Brought back the menu of ${when(shown.at)}.`)
                onOpen(false)
              }}
            />
          )
        )}
      </Scrolled>
    </Sheet>
  )
}

function EntryLine(props: {
  entry: Entry
  shown: boolean
  compared: boolean
  onLook: () => void
  onCompare: () => void
}) {
  const { entry, shown, compared } = props
  const first = entry.edits.first[0]
  const more = entry.edits.count - 1
  return (
    <div
      className={`flex items-baseline gap-2 px-5 py-1.5 ${shown ? 'rounded-sign shadow-[inset_0_0_0_1.5px_var(--ink)]' : ''}`}
    >
      <button type="button" aria-pressed={shown} onClick={props.onLook} className="min-w-0 flex-1 text-left">
        <span className="flex items-baseline gap-2">
          <b>{when(entry.at)}</b>
          <span className="truncate text-ink-2">
            {entry.by ?? 'as taken in'}
            {entry.saves > 1 && `, ${entry.saves} saves`}
          </span>
          {entry.live_at && <Mark kind="ok">live {when(entry.live_at)}</Mark>}
        </span>
        <span className="block truncate text-small text-ink-2">
          {entry.before === null ? `Began with ${entry.edits.count} edits` : (first?.says ?? 'Nothing else')}
          {entry.before !== null && more > 0 && ` and ${more} more`}
        </span>
      </button>
      <Button small tone={compared ? 'go' : 'plain'} aria-pressed={compared} onClick={props.onCompare}>
        {compared ? 'compared' : 'compare'}
      </Button>
    </div>
  )
}

function Looked(props: {
  bench: Schemas['BenchPage']
  entry: Entry
  against: Entry | null
  languages: readonly string[]
  editable: boolean
  onBack: (document: MenuDocument) => void
}) {
  const { bench, entry, against, languages } = props
  const path = { site: bench.site.key, menu: bench.key }
  const [earlier, later] = against && against.revision > entry.revision ? [entry, against] : [against, entry]
  const document = useQuery({
    queryKey: keys.site(path.site, 'revision', path.menu, entry.hash),
    queryFn: () =>
      answered(
        client.GET('/api/sites/{site}/menus/{menu}/revisions/{hash}', {
          params: { path: { ...path, hash: entry.hash } },
        }),
      ),
    staleTime: Number.POSITIVE_INFINITY,
  })
  const compared = useQuery({
    queryKey: keys.site(path.site, 'comparison', path.menu, earlier?.hash, later.hash),
    enabled: earlier !== null,
    queryFn: () =>
      answered(
        client.GET('/api/sites/{site}/menus/{menu}/comparison', {
          params: { path, query: { before: earlier?.hash ?? '', after: later.hash, language: languages[0] } },
        }),
      ),
    staleTime: Number.POSITIVE_INFINITY,
  })
  const edits = earlier ? compared.data : entry.edits
  const rows = document.data ? flatten(document.data.items ?? [], new Set()) : []
  return (
    <>
      <h2>
        {earlier
          ? `From ${when(earlier.at)} to ${when(later.at)}`
          : `What ${entry.by ?? 'the taking in'} did`}
      </h2>
      <Sentences edits={edits} />
      <h2 className="mt-3 flex items-baseline gap-3 border-t border-hair pt-3">
        The menu of {when(entry.at)}
        {props.editable && entry.hash !== bench.hash && document.data && (
          <Button small onClick={() => document.data && props.onBack(document.data)}>
            Bring this back
          </Button>
        )}
      </h2>
      <Told error={document.error ?? compared.error} />
      <ul className="mt-1 text-body">
        {rows.slice(0, 400).map((row) => (
          <li key={row.item.id} className="flex gap-2 truncate" style={{ paddingLeft: (row.level - 1) * 18 }}>
            <span className="mono w-[44px] flex-none text-right text-ink-2">{row.number}</span>
            <span>{labelOf(row.item, languages) || row.item.kind}</span>
            <code className="truncate text-ink-2">{leadsTo(row.item)}</code>
          </li>
        ))}
        {rows.length > 400 && <li className="text-ink-2">and {rows.length - 400} more lines</li>}
      </ul>
    </>
  )
}

function Sentences({ edits }: { edits: Schemas['Edits'] | undefined }) {
  if (!edits) return null
  if (edits.count === 0) return <p className="text-ink-2">They are the same.</p>
  return (
    <ul className="list-disc pl-5">
      {edits.first.map((edit) => (
        <li key={edit.key}>
          {edit.says}
          {edit.confidence !== null && (
            <small className="text-ink-2"> · same line by {Math.round(edit.confidence * 100)} %</small>
          )}
        </li>
      ))}
      {edits.count > edits.first.length && <li>and {edits.count - edits.first.length} more</li>}
    </ul>
  )
}

/** Every other menu on the shelf: what this one was copied from, or its twin on a sister site. */
function Twins({ own, chosen, onChoose }: { own: string; chosen: string; onChoose: (twin: string) => void }) {
  return (
    <span className="flex items-baseline gap-2 text-small text-ink-2">
      compare with another menu
      <MenuSelect except={own} value={chosen} onChoose={onChoose} none="none" />
    </span>
  )
}

function Against({ bench, twin, language }: { bench: Schemas['BenchPage']; twin: string; language: string }) {
  const [other_site = '', other_menu = ''] = twin.split('/')
  const found = useQuery({
    queryKey: keys.site(bench.site.key, 'with', bench.key, twin, language),
    queryFn: () =>
      answered(
        client.GET('/api/sites/{site}/menus/{menu}/comparison/with/{other_site}/{other_menu}', {
          params: {
            path: { site: bench.site.key, menu: bench.key, other_site, other_menu },
            query: { language },
          },
        }),
      ),
  })
  return (
    <>
      <h2>From {twin} to this menu</h2>
      <Trouble query={found} />
      <Sentences edits={found.data} />
    </>
  )
}
