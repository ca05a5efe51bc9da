import type { Schemas } from '../api/client'

type Bar = Schemas['Bar']

const COLUMN_SHAPES = new Set(['drawer', 'side', 'section'])
/** Pixels of bar for a character of label, at which a header of five entries fills a plate. */
const PER_CHARACTER = 2.7

const width = (bar: Bar, scale: number) => Math.max(8, Math.round(bar.chars * PER_CHARACTER * scale))

function Line({ bar, level }: { bar: Bar; level: number }) {
  const scale = level === 0 ? 1 : 0.8
  if (bar.kind === 'divider') return <i className="block h-px w-6 bg-ink-3" />
  const shape =
    bar.kind === 'pending'
      ? 'h-[5px] border border-dashed border-ink-2'
      : bar.kind === 'button'
        ? 'h-[7px] rounded-xs bg-ink'
        : level === 0
          ? 'h-1 bg-ink'
          : 'ml-[3px] h-[3px] bg-wood-2'
  return (
    <i
      className={`block rounded-[1px] ${shape} ${bar.hidden ? 'opacity-30' : ''}`}
      style={{ width: width(bar, scale) }}
    />
  )
}

/** The menu's own shape, small: bars as long as its labels, standing as they would in the place. */
export function Miniature({ bars, shape }: { bars: readonly Bar[]; shape: string }) {
  const down = COLUMN_SHAPES.has(shape)
  return (
    <div
      aria-hidden="true"
      className={`flex min-h-[34px] max-w-full overflow-hidden ${down ? 'flex-col items-start gap-[3px]' : 'items-start justify-center gap-[7px]'}`}
    >
      {bars.slice(0, down ? 7 : 12).map((bar) => (
        <div key={bar.id} className="flex flex-col gap-[3px]">
          <Line bar={bar} level={0} />
          {bar.items.slice(0, down ? 2 : 4).map((below) => (
            <Line key={below.id} bar={below} level={1} />
          ))}
        </div>
      ))}
    </div>
  )
}
