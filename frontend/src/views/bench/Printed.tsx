import { flatten } from '../../outline/tree'
import type { Editor } from '../../outline/useEditor'
import { differences, labelOf, leadsTo } from '../../outline/words'

interface Props {
  editor: Editor
  name: string
  site: string
  languages: readonly string[]
  hidden: ReadonlyMap<string, string>
}

/** The menu on paper: every line, whatever is folded away on the screen. */
export function Printed({ editor, name, site, languages, hidden }: Props) {
  return (
    <section className="px-[18px] py-3">
      <h1>
        {name} <span className="font-normal text-ink-2">{site}</span>
      </h1>
      <ol className="mt-2">
        {flatten(editor.tree, NOTHING).map((row) => (
          <li
            key={row.item.id}
            className="flex break-inside-avoid items-baseline gap-2"
            style={{ paddingLeft: (row.level - 1) * 22 }}
          >
            <span className="mono w-10 flex-none">{row.number}</span>
            <span className="font-semibold">{labelOf(row.item, languages)}</span>
            <code className="break-all">{leadsTo(row.item)}</code>
            <span className="text-small italic">
              {[...differences(row.item), hidden.get(row.item.id)].filter(Boolean).join('; ')}
            </span>
          </li>
        ))}
      </ol>
    </section>
  )
}

const NOTHING: ReadonlySet<string> = new Set()
