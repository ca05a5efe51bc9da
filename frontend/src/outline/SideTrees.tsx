import { flatten, type Row, type Tree } from './tree'
import { labelOf, leadsTo } from './words'

interface Props {
  names: { ours: string; theirs: string }
  ours: Tree
  theirs: Tree
  /** What comes of the choices so far. */
  result: Tree
  language: string
}

const NONE: ReadonlySet<string> = new Set()

/** A menu as each of two has it, beside each other, with what comes of it beneath. Lines in which they differ are marked. */
export function SideTrees({ names, ours, theirs, result, language }: Props) {
  const sides = [ours, theirs].map((tree) => flatten(tree, NONE)) as [Row[], Row[]]
  const told = sides.map((rows) => new Map(rows.map((row) => [row.item.id, said(row)])))
  const differs = (id: string) => told[0]?.get(id) !== told[1]?.get(id)
  return (
    <div className="grid grid-cols-2 gap-x-4 text-small">
      <Lines name={names.ours} rows={sides[0]} differs={differs} language={language} />
      <Lines name={names.theirs} rows={sides[1]} differs={differs} language={language} />
      <div className="col-span-2 mt-2 border-t-2 border-wood pt-1">
        <Lines name="what comes of it" rows={flatten(result, NONE)} differs={differs} language={language} />
      </div>
    </div>
  )
}

/** All by which a line may differ, what is below it apart. */
function said({ item, parentId, index }: Row): string {
  const { items: _, ...own } = item as typeof item & { items?: unknown }
  return JSON.stringify([own, parentId, index])
}

interface LinesProps {
  name: string
  rows: readonly Row[]
  differs: (id: string) => boolean
  language: string
}

function Lines({ name, rows, differs, language }: LinesProps) {
  return (
    <section aria-label={`Menu: ${name}`} className="min-w-0">
      <h4 className="font-bold text-ink-2">{name}</h4>
      <ol className="max-h-[26vh] overflow-auto">
        {rows.map((row) => (
          <li
            key={row.item.id}
            className={`flex gap-2 truncate ${differs(row.item.id) ? 'font-semibold' : 'text-ink-2'}`}
            style={{ paddingLeft: (row.level - 1) * 16 }}
          >
            <span aria-hidden="true" className="mono w-1 flex-none text-signal">
              {differs(row.item.id) ? '\u2022' : ''}
            </span>
            <span className="mono flex-none text-note text-ink-3">{row.number}</span>
            <span className="truncate">{labelOf(row.item, [language]) || row.item.kind}</span>
            <span className="mono truncate text-note font-normal text-ink-3">{leadsTo(row.item)}</span>
          </li>
        ))}
      </ol>
    </section>
  )
}
