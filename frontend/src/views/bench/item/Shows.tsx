import { useQuery } from '@tanstack/react-query'
import { useCallback, useId, useMemo, useRef } from 'react'
import { clockQuery } from '../../../api/queries'
import { DEVICES, type Device } from '../../../lens/lens'
import type { Item } from '../../../outline/tree'
import { MomentField } from '../../../parts/DayField'
import { reading } from '../../../parts/readings'
import { RuleField } from '../../../parts/rule/RuleField'
import { Line, type SetItem } from './line'

interface Props {
  site: string
  item: Item
  /** The rules of what it stands below. */
  above: readonly string[]
  zone: string
  editable: boolean
  set: SetItem
}

/** To whom, where and when the item shows. */
export function Shows({ site, item, above, zone, editable, set }: Props) {
  // The rule's own field is drawn again only where the rule is another: a key typed in the label does not wait for it.
  const latest = useRef(set)
  latest.current = set
  const onRule = useCallback(
    // Each choice is a step of its own, to be taken back by itself.
    (when: string) => latest.current((before) => withShows(before, { when }), `rule ${when}`),
    [],
  )
  const joined = above.join('\n')
  const rules = useMemo(() => above, [joined])
  return (
    <>
      <Line name="shows to">
        <RuleField
          key={item.id}
          site={site}
          label="Rule"
          value={item.when ?? ''}
          above={rules}
          disabled={!editable}
          during={[
            item.from && `, from ${reading(item.from)}`,
            item.until && `, until ${reading(item.until)}`,
          ]
            .filter(Boolean)
            .join('')}
          unseen={pending(item) ? 'it leads nowhere yet' : undefined}
          onChange={onRule}
        />
      </Line>
      <Line name="on">
        <DeviceBoxes
          devices={item.devices ?? null}
          disabled={!editable}
          onToggle={(device, on) =>
            set(
              (before) =>
                withShows(before, {
                  devices: toggled(before.devices as Device[] | null | undefined, device, on),
                }),
              'devices',
            )
          }
        />
      </Line>
      <Line name="during">
        <span className="flex flex-wrap items-baseline gap-x-2">
          <Moment
            site={site}
            name="from"
            value={item.from}
            disabled={!editable}
            onChange={(from) => set((before) => withShows(before, { from }), 'from')}
          />
          <Moment
            site={site}
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

const pending = (item: Item): boolean => item.kind === 'link' && 'pending' in item.target

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

/** The devices with one more or less; all of them are null, and one is always left. */
export function toggled(
  devices: readonly Device[] | null | undefined,
  device: Device,
  on: boolean,
): Device[] | null {
  const now = devices ?? DEVICES
  const next = DEVICES.filter((one) => (one === device ? on : now.includes(one)))
  if (next.length === 0) return [...now]
  return next.length === DEVICES.length ? null : next
}

export function DeviceBoxes(props: {
  devices: readonly Device[] | null
  /** Those on which some of the chosen lines show, and some do not. */
  mixed?: readonly Device[]
  disabled: boolean
  onToggle: (device: Device, on: boolean) => void
}) {
  const now = props.devices ?? DEVICES
  const { mixed = [] } = props
  return (
    <span className="flex gap-3">
      {DEVICES.map((device) => (
        <label key={device} className="flex min-h-6 items-center gap-1">
          <input
            type="checkbox"
            ref={(box) => {
              if (box) box.indeterminate = mixed.includes(device)
            }}
            disabled={props.disabled || (mixed.length === 0 && now.length === 1 && now[0] === device)}
            checked={now.includes(device) && !mixed.includes(device)}
            onChange={(event) => props.onToggle(device, event.target.checked)}
          />
          {device}
        </label>
      ))}
    </span>
  )
}

interface MomentProps {
  site: string
  name: string
  value: string | null | undefined
  disabled: boolean
  onChange: (value: string) => void
}

/** A reading of the site's clock. One that it never shows, or shows twice, is asked about at once. */
export function Moment({ site, name, value, disabled, onChange }: MomentProps) {
  const id = useId()
  const told = useQuery({ ...clockQuery(site, value ?? ''), enabled: Boolean(value) }).data
  return (
    <span className="flex flex-wrap items-baseline gap-1.5 text-ink-2">
      <span className="flex items-baseline gap-1.5">
        <label htmlFor={id}>{name}</label>
        <MomentField id={id} disabled={disabled} value={value?.slice(0, 16) ?? ''} onChange={onChange} />
      </span>
      {value && value.length > 16 && told?.comes === 'once' && (
        <small>the second time ({value.slice(16)})</small>
      )}
      {value && told && told.comes !== 'once' && (
        <span
          role="alert"
          className="w-full border-l-4 border-signal bg-signal-ground px-2 py-0.5 text-small text-ink"
        >
          {told.comes === 'never'
            ? 'The clock never shows this time: it is put forward.'
            : 'The clock shows this time twice.'}{' '}
          {told.offers.map((one, at) => (
            <button
              key={one}
              type="button"
              disabled={disabled}
              className="mr-2 font-semibold underline"
              onClick={() => onChange(one)}
            >
              {told.comes === 'never' ? reading(one) : at === 0 ? 'the first time' : 'the second time'}
            </button>
          ))}
        </span>
      )}
    </span>
  )
}
