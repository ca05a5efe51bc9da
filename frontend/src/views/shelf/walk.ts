import type { KeyboardEvent } from 'react'

/** Arrows walk the signs: along a board, and to the nearest sign of the board above or below. */
export function walkSigns(event: KeyboardEvent, boards: HTMLElement | null): void {
  const here = event.target
  if (!boards || !(here instanceof HTMLElement) || !here.matches('[data-sign]')) return
  const signs = [...boards.querySelectorAll<HTMLElement>('[data-sign]')]
  const goal = nextSign(event.key, here, signs)
  if (!goal) return
  event.preventDefault()
  goal.focus()
}

function nextSign(key: string, here: HTMLElement, signs: HTMLElement[]): HTMLElement | undefined {
  const at = signs.indexOf(here)
  if (key === 'ArrowRight') return signs[at + 1]
  if (key === 'ArrowLeft') return signs[at - 1]
  if (key !== 'ArrowDown' && key !== 'ArrowUp') return undefined
  const from = here.getBoundingClientRect()
  const away = (sign: HTMLElement) => {
    const box = sign.getBoundingClientRect()
    const step = key === 'ArrowDown' ? box.bottom - from.bottom : from.bottom - box.bottom
    return step > 20 ? step * 4 + Math.abs(box.left - from.left) : Number.POSITIVE_INFINITY
  }
  const nearest = [...signs].sort((a, b) => away(a) - away(b))[0]
  return nearest && Number.isFinite(away(nearest)) ? nearest : undefined
}
