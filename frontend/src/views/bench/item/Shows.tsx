import { DEVICES, type Device } from '../../../app/lens'
import type { Item } from '../../../outline/tree'
import { FIELD, Line, type SetItem } from './line'

interface Props {
  item: Item
  zone: string
  editable: boolean
  set: SetItem
}

/** To whom, where and when the item shows. */
export function Shows({ item, zone, editable, set }: Props) {
  return (
    <>
      <Line name="shows to">
        <input
          key={`${item.id} ${item.when ?? ''}`}
          className={`${FIELD} mono`}
          aria-label="Rule"
          placeholder="everyone; or a rule such as signed_in"
          disabled={!editable}
          defaultValue={item.when ?? ''}
          onBlur={(event) => {
            const when = event.target.value.trim()
            if (when !== (item.when ?? '')) set((before) => withShows(before, { when }), 'rule')
          }}
        />
      </Line>
      <Line name="on">
        <DeviceBoxes
          devices={item.devices ?? null}
          disabled={!editable}
          onChange={(devices) => set((before) => withShows(before, { devices }), 'devices')}
        />
      </Line>
      <Line name="during">
        <span className="flex flex-wrap items-baseline gap-x-2">
          <Moment
            name="from"
            value={item.from}
            disabled={!editable}
            onChange={(from) => set((before) => withShows(before, { from }), 'from')}
          />
          <Moment
            name="until"
            value={item.until}
            disabled={!editable}
            onChange={(until) => set((before) => withShows(before, { until }), 'until')}
          />
          <small className="text-ink-2">
            {item.from || item.until ? `on the clock of ${zone}` : 'always'}
          </small>
        </span>
      </Line>
    </>
  )
}

export interface ShowsFields {
  when?: string
  devices?: Device[] | null
  from?: string
  until?: string
}

/** The item with these fields; an empty one goes. */
export function withShows(item: Item, fields: ShowsFields): Item {
  const next = Object.entries({ ...item, ...fields }).filter(
    ([name, value]) => !(name in fields) || (value !== '' && value !== null && value !== undefined),
  )
  return Object.fromEntries(next) as unknown as Item
}

export function DeviceBoxes(props: {
  devices: readonly Device[] | null
  disabled: boolean
  onChange: (devices: Device[] | null) => void
}) {
  const now = props.devices ?? DEVICES
  return (
    <span className="flex gap-3">
      {DEVICES.map((device) => (
        <label key={device} className="flex items-baseline gap-1">
          <input
            type="checkbox"
            disabled={props.disabled || (now.length === 1 && now[0] === device)}
            checked={now.includes(device)}
            onChange={(event) => {
              const next = DEVICES.filter((one) =>
                one === device ? event.target.checked : now.includes(one),
              )
              props.onChange(next.length === DEVICES.length ? null : next)
            }}
          />
          {device}
        </label>
      ))}
    </span>
  )
}

export function Moment(props: {
  name: string
  value: string | null | undefined
  disabled: boolean
  onChange: (value: string) => void
}) {
  return (
    <label className="flex items-baseline gap-1.5 text-ink-2">
      {props.name}
      <input
        type="datetime-local"
        className="border-b-[1.5px] border-hair bg-transparent text-[12.5px] text-ink"
        disabled={props.disabled}
        value={props.value ?? ''}
        onChange={(event) => props.onChange(event.target.value)}
      />
    </label>
  )
}
