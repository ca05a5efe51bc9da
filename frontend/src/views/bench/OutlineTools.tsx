import { memo, type RefObject } from 'react'
import type { Schemas } from '../../api/client'
import { within } from '../../api/inside'
import { useAct } from '../../app/acts'
import { languageName } from '../../lens/lens'
import type { Editor } from '../../outline/useEditor'
import { Button } from '../../parts/Button'
import { Choice } from '../../parts/Choice'
import { Input } from '../../parts/Input'
import { Menu, MenuAct } from '../../parts/Menu'

interface Props {
  bench: Schemas['BenchPage']
  /** It may be of a moment ago: only what lines are found by is of now. */
  editor: Editor
  finding: string
  editable: boolean
  languages: readonly string[]
  second: string | null
  onSecond: (language: string | null) => void
  findField: RefObject<HTMLInputElement | null>
  onBringIn: () => void
  onReplace: () => void
  onHistory: () => void
  /** Shows the entry in place of the outline, where there is no room for both. */
  onEntry: (() => void) | null
}

const FORMATS = [
  ['outline', 'Outline text'],
  ['json', 'Menu document (JSON)'],
  ['html', 'HTML'],
  ['opml', 'OPML 2.0'],
  ['csv', 'CSV, for a spreadsheet'],
  ['linkset', 'Linkset (RFC 9264)'],
  ['jsonld', 'JSON-LD'],
] as const

/** Above the outline: find, levels, a second language beside the first, and the ways in and out. */
export const OutlineTools = memo(function OutlineTools(props: Props) {
  const { bench, editor, finding, editable, languages, second, onSecond, findField } = props
  const others = bench.site.languages.filter((one) => one !== languages[0])
  useAct('Bring lines in', editable ? props.onBringIn : null)
  useAct('Find and replace', editable ? props.onReplace : null)
  useAct('Look at the menu’s past', props.onHistory)
  const missing = second ? editor.rows.filter((row) => lacks(row.item, second)).length : 0
  return (
    <div className="flex min-h-[34px] flex-none flex-wrap items-center gap-x-3 gap-y-1 border-b border-hair px-[18px] py-0.5 text-small whitespace-nowrap text-ink-2">
      <Input
        ref={findField}
        type="search"
        aria-label="Find lines"
        placeholder="find lines"
        value={finding}
        onChange={(event) => editor.find(event.target.value)}
        onKeyDown={(event) => {
          if (event.key === 'Escape') editor.find('')
          if (event.key !== 'Enter' && event.key !== 'ArrowDown') return
          event.preventDefault()
          editor.chooseFirst()
        }}
        className="w-[130px] text-small"
      />
      {editor.finding && <span role="status">{editor.rows.length} lines</span>}
      {editable && (
        <Button small tone="quiet" className="-ml-2" onClick={props.onReplace}>
          replace
        </Button>
      )}
      <span className="flex items-center gap-1 max-sm:hidden">
        levels
        {[1, 2, 3].map((level) => (
          <Button
            key={level}
            small
            tone="quiet"
            aria-label={`Show ${level} levels`}
            onClick={() => editor.foldTo(level)}
          >
            {level}
          </Button>
        ))}
        <Button small tone="quiet" aria-label="Show all levels" onClick={() => editor.foldTo(null)}>
          all
        </Button>
      </span>
      {others.length > 0 && (
        <label className="flex items-center gap-1">
          beside
          <Choice
            aria-label="Second language"
            value={second ?? ''}
            onChoose={(value) => onSecond(value || null)}
          >
            <option value="">nothing</option>
            {others.map((one) => (
              <option key={one} value={one}>
                {languageName(one)}
              </option>
            ))}
          </Choice>
          {second && missing > 0 && <span role="status">{missing} missing</span>}
        </label>
      )}
      <span className="ml-auto flex items-center gap-1.5">
        {editable && (
          <Button small onClick={props.onBringIn}>
            Bring in
          </Button>
        )}
        <SendOut site={bench.site.key} menu={bench.key} language={languages[0] ?? 'en'} />
        <Button small onClick={props.onHistory}>
          Past
        </Button>
        {props.onEntry && (
          <Button small onClick={props.onEntry}>
            The entry
          </Button>
        )}
      </span>
    </div>
  )
})

const lacks = (item: Editor['rows'][number]['item'], language: string): boolean =>
  'label' in item && item.label !== undefined && Object.keys(item.label).length > 0 && !item.label[language]

function SendOut({ site, menu, language }: { site: string; menu: string; language: string }) {
  return (
    <Menu button={<Button small>Take out</Button>}>
      {FORMATS.map(([format, says]) => (
        <MenuAct key={format} asChild>
          <a href={within(`/api/sites/${site}/menus/${menu}/export/${format}?language=${language}`)} download>
            {says}
          </a>
        </MenuAct>
      ))}
    </Menu>
  )
}
