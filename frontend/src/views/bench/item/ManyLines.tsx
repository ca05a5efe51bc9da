import type { Device } from '../../../lens/lens'
import { headsOf, updateAll } from '../../../outline/block'
import { type Bounds, carryOut } from '../../../outline/carryOut'
import type { Intent } from '../../../outline/keys'
import type { Row } from '../../../outline/tree'
import type { Editor } from '../../../outline/useEditor'
import { Button } from '../../../parts/Button'
import { RuleField } from '../../../parts/rule/RuleField'
import { Line } from './line'
import { DeviceBoxes, Moment, type ShowsFields, withShows } from './Shows'

interface Props {
  site: string
  editor: Editor
  row: Row
  bounds: Bounds
  editable: boolean
}

const MOVES: readonly { intent: Intent; says: string }[] = [
  { intent: 'shallower', says: '← a level up' },
  { intent: 'deeper', says: 'a level deeper →' },
  { intent: 'up', says: '↑ up' },
  { intent: 'down', says: '↓ down' },
  { intent: 'duplicate', says: 'Duplicate' },
  { intent: 'remove', says: 'Remove' },
]

/** Several lines at once: level, devices, rule and window of all of them. */
export function ManyLines({ site, editor, row, bounds, editable }: Props) {
  const chosen = [...editor.chosen]
  const set = (fields: ShowsFields) => {
    editor.edit(updateAll(editor.now(), chosen, (item) => withShows(item, fields)))
    editor.say(`Changed ${chosen.length} lines.`)
  }
  const heads = headsOf(editor.tree, editor.chosen)
  const items = editor.rows.filter((one) => editor.chosen.has(one.item.id)).map((one) => one.item)
  const shared = <T,>(value: (item: (typeof items)[number]) => T): T | undefined => {
    const first = items[0] && JSON.stringify(value(items[0]))
    return items.every((item) => JSON.stringify(value(item)) === first) && items[0]
      ? value(items[0])
      : undefined
  }
  return (
    <section aria-label="Item" className="overflow-auto px-[18px] py-2.5">
      <h2 className="text-body">
        {chosen.length} lines{' '}
        <span className="font-normal text-ink-2">
          {heads.length < chosen.length && `of which ${heads.length} lead the others`}
        </span>
      </h2>
      <div className="mt-2 flex flex-wrap gap-1.5">
        {MOVES.map((one) => (
          <Button
            key={one.intent}
            small
            disabled={!editable}
            onClick={() => carryOut(editor, one.intent, row, false, bounds)}
          >
            {one.says}
          </Button>
        ))}
      </div>
      <dl className="mt-3 grid grid-cols-[70px_minmax(0,1fr)] gap-x-2.5 gap-y-2 text-body">
        <Line name="on">
          <DeviceBoxes
            devices={(shared((item) => item.devices ?? null) ?? null) as Device[] | null}
            disabled={!editable}
            onChange={(devices) => set({ devices })}
          />
        </Line>
        <Line name="shows to">
          <RuleField
            key={chosen.join(' ')}
            site={site}
            label="Rule of all of them"
            value={shared((item) => item.when ?? '') ?? ''}
            above={[]}
            disabled={!editable}
            onChange={(when) => set({ when })}
          />
        </Line>
        <Line name="during">
          <span className="flex flex-wrap gap-x-2">
            <Moment
              site={site}
              name="from"
              value={shared((item) => item.from)}
              disabled={!editable}
              onChange={(from) => set({ from })}
            />
            <Moment
              site={site}
              name="until"
              value={shared((item) => item.until)}
              disabled={!editable}
              onChange={(until) => set({ until })}
            />
          </span>
        </Line>
      </dl>
    </section>
  )
}
