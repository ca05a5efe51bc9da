import { useQuery } from '@tanstack/react-query'
import { useLayoutEffect, useRef, useState } from 'react'
import type { Schemas } from '../../api/client'
import { devicesQuery } from '../../api/queries'
import { useLens } from '../../lens/useLens'
import { Button } from '../../parts/Button'
import { Mark } from '../../parts/Mark'
import { Scrolled } from '../../parts/Scrolled'
import { Sheet } from '../../parts/Sheet'
import { Trouble } from '../../parts/Trouble'

interface Props {
  site: Schemas['SitePage']
  location: string
  onClose: () => void
}

/** One place on every device, the same entries joined by lines, and what one device lacks. */
export function SideBySide({ site, location, onClose }: Props) {
  const lens = useLens()
  const found = useQuery(devicesQuery(site.key, location, lens))
  const title = site.locations.find((one) => one.key === location)?.title ?? location
  const columns = found.data ?? []
  return (
    <Sheet
      title={`${title} on every device`}
      onOpen={(open) => !open && onClose()}
      className="h-[680px] w-[1100px] grid-rows-[auto_1fr] p-5"
      beside={
        <Button small className="ml-auto" onClick={onClose}>
          Close
        </Button>
      }
    >
      <Scrolled label="Devices side by side" className="mt-3">
        <Trouble query={found} />
        <Joined columns={columns} />
      </Scrolled>
    </Sheet>
  )
}

const ROW = 25
const TOP = 72

function Joined({ columns }: { columns: Schemas['DeviceColumn'][] }) {
  const box = useRef<HTMLDivElement>(null)
  const [width, setWidth] = useState(0)
  useLayoutEffect(() => setWidth(box.current?.clientWidth ?? 0), [])
  const tallest = Math.max(1, ...columns.map((one) => one.entries.length + one.lacks.length + 1))
  const gap = 90
  const wide = (width - gap * (columns.length - 1)) / Math.max(1, columns.length)
  const lines = columns.slice(0, -1).flatMap((column, at) => {
    const next = columns[at + 1]
    return column.entries.flatMap((entry, row) => {
      const there = next?.entries.findIndex((one) => one.same === entry.same) ?? -1
      return there < 0 ? [] : [{ key: `${at} ${entry.id}`, at, row, there }]
    })
  })
  return (
    <div ref={box} className="relative" style={{ height: TOP + tallest * ROW + 20 }}>
      <svg aria-hidden="true" className="absolute inset-0 size-full">
        {lines.map(({ key, at, row, there }) => {
          const x = (at + 1) * wide + at * gap
          const y = TOP + row * ROW + ROW / 2
          const to = TOP + there * ROW + ROW / 2
          return (
            <path
              key={key}
              d={`M${x + 2} ${y}C${x + gap / 2} ${y} ${x + gap / 2} ${to} ${x + gap - 2} ${to}`}
              fill="none"
              stroke={row === there ? 'var(--wood-2)' : 'var(--dusk)'}
              strokeWidth={row === there ? 1.5 : 2}
            />
          )
        })}
      </svg>
      {columns.map((column, at) => (
        <section
          key={column.device}
          aria-label={column.device}
          className="absolute top-0"
          style={{ left: at * (wide + gap), width: wide }}
        >
          <h3 className="h-[24px] text-head font-bold">{column.device}</h3>
          <p className="h-[48px] text-small leading-tight text-ink-2">
            {column.title ?? 'no place'} · {column.how}
            {column.lacks.length > 0 && (
              <span className="block">
                <Mark kind="stop">lacks {column.lacks.length}</Mark>
              </span>
            )}
          </p>
          <ul>
            {column.entries.map((entry) => (
              <li
                key={entry.id}
                className="truncate border-b border-hair bg-plate px-1.5 text-body"
                style={{ height: ROW, lineHeight: `${ROW - 1}px`, paddingLeft: 6 + (entry.level - 1) * 14 }}
              >
                {entry.label}
              </li>
            ))}
            {column.lacks.map((label) => (
              <li
                key={`lacks ${label}`}
                className="truncate px-1.5 text-small text-ink-2 line-through decoration-signal"
                style={{ height: ROW, lineHeight: `${ROW}px` }}
              >
                {label}
              </li>
            ))}
          </ul>
        </section>
      ))}
    </div>
  )
}
