import { type KeyboardEvent, type ReactNode, useRef } from 'react'
import { written } from '../../parts/days'
import { Mark } from '../../parts/Mark'
import { ago } from '../../parts/times'
import { called, type Line, MARKS, nameOf, where } from './kinds'

/** Entries that are drawn one by one; more are a number. */
const DRAWN = 8

interface Props {
  lines: readonly Line[]
  more: number
  shown: 'open' | 'waived' | 'gone'
  chosen: Line | null
  onChoose: (line: Line) => void
  /** What is told of the chosen one, where it stands beneath its line. */
  beneath: ReactNode
  empty: ReactNode
}

/** A line for each cause. The arrow keys go from one to the next. */
export function CauseLines({ lines, more, shown, chosen, onChoose, beneath, empty }: Props) {
  const list = useRef<HTMLUListElement>(null)
  const onKeyDown = (event: KeyboardEvent) => {
    const step = { ArrowDown: 1, ArrowUp: -1 }[event.key]
    if (!step) return
    const all = [...(list.current?.querySelectorAll<HTMLButtonElement>(':scope > li > button') ?? [])]
    const at = all.indexOf(document.activeElement as HTMLButtonElement)
    const next = all[at + step]
    if (at < 0 || !next) return
    event.preventDefault()
    next.focus()
    next.click()
  }
  if (lines.length === 0) return <div>{empty}</div>
  return (
    <div className="min-h-0 overflow-auto pb-4 print:overflow-visible">
      <ul ref={list} aria-label="Findings by cause" onKeyDown={onKeyDown}>
        {lines.map((line) => (
          <li key={nameOf(line)} className="border-b border-hair">
            <button
              type="button"
              aria-pressed={chosen !== null && nameOf(chosen) === nameOf(line)}
              onClick={() => onChoose(line)}
              className="grid w-full grid-cols-[88px_minmax(0,1fr)_136px_104px] gap-x-3 rounded-sign px-2 py-2 text-left hover:bg-paper-2 aria-pressed:bg-plate aria-pressed:outline-[1.5px] aria-pressed:-outline-offset-1 aria-pressed:outline-ink max-md:grid-cols-[88px_minmax(0,1fr)]"
            >
              <span>
                <Mark kind={MARKS[line.severity]}>
                  <span className="sr-only">{line.severity}, </span>
                  {called(line.code)}
                </Mark>
              </span>
              <span className="min-w-0">
                <b className="block break-words">{line.says}</b>
                {line.fix && <span className="block text-small text-ink-2">{line.fix}</span>}
              </span>
              <span className="text-small text-ink-2 max-md:col-start-2">
                <span aria-hidden="true" className={`flex gap-[3px] ${line.entries > 0 ? 'h-4' : ''}`}>
                  {Array.from({ length: Math.min(line.entries, DRAWN) }, (_, at) => (
                    <span key={at} className="h-[11px] w-[9px] rounded-[1px] border border-ink-2" />
                  ))}
                </span>
                {where(line)}
              </span>
              <span className="text-right text-small text-ink-2 max-md:col-start-2 max-md:text-left">
                <span className="block">{sinceWhen(line, shown)}</span>
                <span className={`block ${line.overdue ? 'text-signal' : ''}`}>{whose(line)}</span>
                {line.waived && (
                  <span className="block">
                    waived{line.waived.until ? ` until ${written(line.waived.until)}` : ''}
                  </span>
                )}
              </span>
            </button>
            {beneath && chosen && nameOf(chosen) === nameOf(line) && (
              <aside aria-label="The finding" className="px-2 py-3">
                {beneath}
              </aside>
            )}
          </li>
        ))}
      </ul>
      {more > 0 && <p className="px-2 py-2 text-small text-ink-2">{more} more that are less grave.</p>}
    </div>
  )
}

function sinceWhen(line: Line, shown: Props['shown']): string {
  if (shown === 'gone' && line.gone_at) return `went ${ago(line.gone_at)}`
  return `${line.back > 0 ? 'came back' : 'since'} ${ago(line.since)}`
}

function whose(line: Line): string {
  const due = line.due ? `${line.overdue ? 'was due' : 'due'} ${written(line.due)}` : ''
  return [line.owner ?? 'nobody', due].filter(Boolean).join(', ')
}
