import { Link, useNavigate } from '@tanstack/react-router'
import { type CSSProperties, type KeyboardEvent, type PointerEvent, useRef, useState } from 'react'
import type { Schemas } from '../../api/client'
import { useLens } from '../../lens/useLens'
import { reading } from '../../parts/readings'
import { siteClock, when } from '../../parts/times'
import { type Block, type Lane, placed, type Span } from './blocks'

const ROW_PX = 28
const WINDOW_PX = 7
const MOST_WINDOWS = 12
const DAY_MS = 86_400_000
const HATCHED =
  'bg-[repeating-linear-gradient(135deg,transparent_0_6px,color-mix(in_srgb,var(--signal)_30%,transparent)_6px_8px)]'

const windowSays = (one: Schemas['EntryWindowOut']): string =>
  [
    one.label,
    one.opens && `shows from ${when(one.opens)}`,
    one.closes && `${one.opens ? '' : 'shows '}until ${when(one.closes)}`,
  ]
    .filter(Boolean)
    .join(' ')

interface Props {
  lane: Lane
  span: Span
  freezes: readonly Schemas['FreezeOut'][]
  windows: readonly Schemas['EntryWindowOut'][]
  onMove: (change: string, days: number) => void
  moving: boolean
}

/** A site's changes on its own clock, as blocks. What will not go is joined to what stands in its way. */
export function LaneRow({ lane, span, freezes, windows, onMove, moving }: Props) {
  const track = useRef<HTMLDivElement>(null)
  const lens = useLens()
  const shownWindows = windows
    .filter(
      (one) =>
        (!one.opens || Date.parse(one.opens) < span.ends) &&
        (!one.closes || Date.parse(one.closes) > span.begins),
    )
    .slice(0, MOST_WINDOWS)
  const left = (at: number): string => `${placed(at, span) * 100}%`
  const dayPx = () => ((track.current?.clientWidth ?? 0) * DAY_MS) / (span.ends - span.begins)
  return (
    <section
      aria-label={lane.name}
      className="grid grid-cols-[180px_minmax(0,1fr)] border-b border-hair max-sm:grid-cols-[96px_minmax(0,1fr)]"
    >
      <div className="py-1.5 pr-2">
        <b className="block leading-tight">{lane.name}</b>
        <span className="text-note text-ink-2">{siteClock(lane.zone)}</span>
      </div>
      <div
        ref={track}
        className="relative self-stretch"
        style={{ minHeight: lane.rows * ROW_PX + 12 + shownWindows.length * WINDOW_PX }}
      >
        {freezes.map((one) => (
          <span
            key={one.id}
            title={`${one.why}: nothing goes live`}
            className={`absolute inset-y-0 ${HATCHED}`}
            style={{
              left: left(Date.parse(`${one.begins.slice(0, 16)}Z`)),
              right: `calc(100% - ${left(Date.parse(`${one.ends.slice(0, 16)}Z`))})`,
            }}
          />
        ))}
        <span className="absolute inset-y-0 w-[2px] bg-ink" style={{ left: left(Date.now()) }} />
        {lane.agains
          .filter((one) => one.begins < span.ends && one.ends > span.begins)
          .map((one) => (
            <span
              key={one.begins}
              title={one.says}
              className="absolute h-[24px] min-w-[14px] overflow-hidden rounded-sign border-[1.5px] border-dotted border-ink-2 px-1.5 text-small leading-5 text-ellipsis whitespace-nowrap text-ink-2"
              style={{
                top: one.row * ROW_PX + 6,
                left: left(one.begins),
                right: `calc(100% - ${left(one.ends)})`,
              }}
            >
              {one.title} <span className="sr-only">{one.says}</span>
            </span>
          ))}
        {shownWindows.map((one, at) => (
          <Link
            key={`${one.menu} ${one.item}`}
            to="/sites/$site/menus/$menu"
            params={{ site: one.site, menu: one.menu }}
            search={lens}
            hash={one.item}
            aria-label={windowSays(one)}
            title={windowSays(one)}
            className="absolute h-[5px] border-t-2 border-ink-2 hover:border-ink focus-visible:border-ink"
            style={{
              top: lane.rows * ROW_PX + 9 + at * WINDOW_PX,
              left: one.opens ? left(Date.parse(one.opens)) : 0,
              right: one.closes ? `calc(100% - ${left(Date.parse(one.closes))})` : 0,
            }}
          />
        ))}
        {lane.blocks.map((block) => (
          <Joined key={block.change} block={block} lane={lane} left={left(block.begins)} />
        ))}
        {lane.blocks
          .filter((block) => block.begins < span.ends && (block.ends ?? block.begins + 1) > span.begins)
          .map((block) => (
            <BlockButton
              key={block.change}
              block={block}
              dayPx={dayPx}
              onMove={onMove}
              moving={moving}
              style={{
                top: block.row * ROW_PX + 6,
                left: left(block.begins),
                ...(block.ends && { right: `calc(100% - ${left(block.ends)})` }),
              }}
            />
          ))}
      </div>
    </section>
  )
}

/** From what stands in its way down to it, or up. */
function Joined({ block, lane, left }: { block: Block; lane: Lane; left: string }) {
  const by = lane.blocks.find((one) => one.change === block.event.by)
  if (!by || by.row === block.row) return null
  const [from, to] = [by.row, block.row].sort()
  return (
    <span
      aria-hidden="true"
      className="absolute z-10 w-0 border-l-2 border-signal before:absolute before:bottom-[-5px] before:left-[-6px] before:size-2.5 before:rounded-full before:border-2 before:border-signal before:bg-plate"
      style={{ left, top: (from ?? 0) * ROW_PX + 18, height: ((to ?? 0) - (from ?? 0)) * ROW_PX - 8 }}
    />
  )
}

interface BlockProps {
  block: Block
  dayPx: () => number
  onMove: (change: string, days: number) => void
  moving: boolean
  style: CSSProperties
}

/** Opened by a press; moved by so many days by dragging it, or by Shift with the arrow keys. */
function BlockButton({ block, dayPx, onMove, moving, style }: BlockProps) {
  const navigate = useNavigate()
  const lens = useLens()
  const [dragged, setDragged] = useState<{ from: number; by: number } | null>(null)
  const dropped = useRef(false)
  const { event, end } = block
  const trouble = event.outcome !== 'unapproved' && event.says ? event.says : (end?.says ?? '')
  const movable = !block.live && !moving
  const look = trouble
    ? 'border-signal bg-signal-ground'
    : event.outcome === 'unapproved'
      ? 'border-dashed border-ink bg-plate'
      : block.live
        ? 'border-moss bg-moss-ground'
        : 'border-dusk bg-dusk-ground'
  const said = [
    block.live ? 'live' : `goes live ${reading(event.reading)}`,
    end && `comes back ${reading(end.reading)}`,
    event.outcome === 'unapproved' && 'to be approved',
    trouble,
  ].filter(Boolean)
  const days = dragged ? Math.round(dragged.by / Math.max(dayPx(), 0.01)) : 0
  const onKeyDown = (press: KeyboardEvent) => {
    if (!movable || !press.shiftKey || !['ArrowLeft', 'ArrowRight'].includes(press.key)) return
    press.preventDefault()
    onMove(block.change, press.key === 'ArrowLeft' ? -1 : 1)
  }
  const onPointerDown = (press: PointerEvent<HTMLButtonElement>) => {
    dropped.current = false
    if (!movable || press.button !== 0) return
    press.currentTarget.setPointerCapture(press.pointerId)
    setDragged({ from: press.clientX, by: 0 })
  }
  const onPointerMove = (move: PointerEvent) => {
    if (dragged) setDragged({ ...dragged, by: move.clientX - dragged.from })
  }
  const onPointerUp = () => {
    if (dragged && Math.abs(dragged.by) > 6) {
      dropped.current = true
      if (days !== 0) onMove(block.change, days)
    }
    setDragged(null)
  }
  return (
    <button
      type="button"
      title={said.join('; ')}
      aria-label={`${block.title}: ${said.join('; ')}`}
      aria-keyshortcuts={movable ? 'Shift+ArrowLeft Shift+ArrowRight' : undefined}
      onClick={() => {
        if (!dropped.current) void navigate({ to: '/changes', search: { ...lens, change: block.change } })
      }}
      onKeyDown={onKeyDown}
      onPointerDown={onPointerDown}
      onPointerMove={onPointerMove}
      onPointerUp={onPointerUp}
      onPointerCancel={() => setDragged(null)}
      className={`absolute h-[24px] min-w-[14px] touch-none overflow-hidden rounded-sign border-[1.5px] px-1.5 text-left text-small leading-5 text-ellipsis whitespace-nowrap ${look} ${block.ends ? '' : 'max-w-[180px] border-r-0 rounded-r-none'}`}
      style={{ ...style, ...(dragged && { transform: `translateX(${dragged.by}px)`, zIndex: 20 }) }}
    >
      {days !== 0
        ? `${Math.abs(days)} ${Math.abs(days) === 1 ? 'day' : 'days'} ${days < 0 ? 'earlier' : 'later'}`
        : block.title}
      {days === 0 && end && <span className="text-ink-2"> · back {reading(end.reading)}</span>}
    </button>
  )
}
