import { DEVICES, type Device } from '../../../lens/lens'
import { headsOf, updateAll } from '../../../outline/block'
import { type Bounds, carryOut } from '../../../outline/carryOut'
import type { Intent } from '../../../outline/keys'
import type { Item, Row } from '../../../outline/tree'
import type { Editor } from '../../../outline/useEditor'
import { Button } from '../../../parts/Button'
import { Mark } from '../../../parts/Mark'
import { reading } from '../../../parts/readings'
import { RuleField } from '../../../parts/rule/RuleField'
import { Line } from './line'
import { DeviceBoxes, Moment, type ShowsFields, toggled, withShows } from './Shows'

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
  const change = (each: (item: Item) => Item) => {
    editor.edit(updateAll(editor.now(), chosen, each))
    editor.say(`Changed ${chosen.length} lines.`)
  }
  const set = (fields: ShowsFields) => change((item) => withShows(item, fields))
  const heads = headsOf(editor.tree, editor.chosen)
  const items = editor.rows.filter((one) => editor.chosen.has(one.item.id)).map((one) => one.item)
  const shared = <T,>(value: (item: (typeof items)[number]) => T): T | undefined =>
    items[0] && !differs(value) ? value(items[0]) : undefined
  const differs = (value: (item: (typeof items)[number]) => unknown): boolean =>
    new Set(items.map((item) => JSON.stringify(value(item) ?? null))).size > 1
  const devicesOf = (item: Item) => [...(item.devices ?? DEVICES)].sort()
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
            devices={DEVICES.filter((device) => items.every((item) => devicesOf(item).includes(device)))}
            mixed={DEVICES.filter((device) => differs((item) => devicesOf(item).includes(device)))}
            disabled={!editable}
            onToggle={(device, on) =>
              change((item) =>
                withShows(item, { devices: toggled(item.devices as Device[] | null, device, on) }),
              )
            }
          />
          <Differ when={differs(devicesOf)} values={items.map((item) => devicesOf(item).join(', '))} />
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
          <Differ when={differs((item) => item.when)} values={items.map((item) => item.when ?? 'everyone')} />
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
          <Differ
            when={differs((item) => item.from)}
            values={items.map((item) => (item.from ? `from ${reading(item.from)}` : 'from the beginning'))}
          />
          <Differ
            when={differs((item) => item.until)}
            values={items.map((item) => (item.until ? `until ${reading(item.until)}` : 'without an end'))}
          />
        </Line>
      </dl>
    </section>
  )
}

const TOLD = 3

/** That the chosen lines do not agree, with what they say; what is set here holds for all of them. */
function Differ({ when, values }: { when: boolean; values: readonly string[] }) {
  if (!when) return null
  const counts = new Map<string, number>()
  for (const value of values) counts.set(value, (counts.get(value) ?? 0) + 1)
  const told = [...counts].slice(0, TOLD).map(([value, count]) => `${value} (${count})`)
  return (
    <p className="mt-0.5 text-small">
      <Mark kind="waiting">differs</Mark>{' '}
      <span className="text-ink-2">
        {told.join(' · ')}
        {counts.size > TOLD && ` · and ${counts.size - TOLD} more`}
      </span>
    </p>
  )
}
