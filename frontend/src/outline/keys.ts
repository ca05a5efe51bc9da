/** Keys become intents through one table; the help and the outline both read it. */
import type { KeyboardEvent } from 'react'

export type Intent =
  | 'new line'
  | 'deeper'
  | 'shallower'
  | 'up'
  | 'down'
  | 'previous'
  | 'next'
  | 'extend up'
  | 'extend down'
  | 'all'
  | 'first'
  | 'last'
  | 'close'
  | 'open'
  | 'type'
  | 'leave'
  | 'duplicate'
  | 'remove'
  | 'copy'
  | 'cut'
  | 'target'
  | 'page title'
  | 'language'
  | 'undo'
  | 'redo'
  | 'find'
  | 'levels'

interface KeyRule {
  keys: string
  intent: Intent
  says: string
  /** Where the key means this: while typing in a label, on the line itself, or in both. */
  while: 'typing' | 'line' | 'both'
}

export const KEY_RULES: readonly KeyRule[] = [
  { keys: 'Enter', intent: 'new line', says: 'New line below', while: 'both' },
  { keys: 'Tab', intent: 'deeper', says: 'One level deeper', while: 'typing' },
  { keys: 'Shift+Tab', intent: 'shallower', says: 'One level up', while: 'typing' },
  { keys: 'Alt+ArrowRight', intent: 'deeper', says: 'Chosen lines one level deeper', while: 'both' },
  { keys: 'Alt+ArrowLeft', intent: 'shallower', says: 'Chosen lines one level up', while: 'both' },
  { keys: 'Alt+ArrowUp', intent: 'up', says: 'Move the chosen lines up', while: 'both' },
  { keys: 'Alt+ArrowDown', intent: 'down', says: 'Move the chosen lines down', while: 'both' },
  { keys: 'ArrowUp', intent: 'previous', says: 'Line above', while: 'both' },
  { keys: 'ArrowDown', intent: 'next', says: 'Line below', while: 'both' },
  { keys: 'Home', intent: 'first', says: 'First line', while: 'line' },
  { keys: 'End', intent: 'last', says: 'Last line', while: 'line' },
  { keys: 'Shift+ArrowUp', intent: 'extend up', says: 'Choose the line above as well', while: 'line' },
  { keys: 'Shift+ArrowDown', intent: 'extend down', says: 'Choose the line below as well', while: 'line' },
  { keys: 'Ctrl+A', intent: 'all', says: 'Choose all lines', while: 'line' },
  { keys: 'ArrowLeft', intent: 'close', says: 'Fold away, or to the parent', while: 'line' },
  { keys: 'ArrowRight', intent: 'open', says: 'Unfold, or to the first child', while: 'line' },
  { keys: 'Alt+1 … Alt+4', intent: 'levels', says: 'Show so many levels; Alt+0 shows all', while: 'both' },
  { keys: 'F2', intent: 'type', says: 'Type in the label', while: 'line' },
  { keys: 'Escape', intent: 'leave', says: 'Stop typing; Tab then leaves the outline', while: 'typing' },
  { keys: 'Alt+Enter', intent: 'duplicate', says: 'The chosen lines once more, below', while: 'both' },
  { keys: 'Delete', intent: 'remove', says: 'Remove the chosen lines', while: 'line' },
  { keys: 'Ctrl+Backspace', intent: 'remove', says: 'Remove the chosen lines', while: 'both' },
  { keys: 'Ctrl+C', intent: 'copy', says: 'Copy the chosen lines, as outline text', while: 'line' },
  { keys: 'Ctrl+X', intent: 'cut', says: 'Cut the chosen lines', while: 'line' },
  {
    keys: 'Ctrl+Enter',
    intent: 'target',
    says: 'Choose where it leads (or type -> in the label)',
    while: 'both',
  },
  { keys: 'Alt+T', intent: 'page title', says: 'Back to the page’s own title', while: 'both' },
  { keys: 'Alt+L', intent: 'language', says: 'To the other language and back', while: 'both' },
  { keys: 'Ctrl+F', intent: 'find', says: 'Find lines', while: 'both' },
  { keys: 'Ctrl+Z', intent: 'undo', says: 'Undo', while: 'both' },
  { keys: 'Ctrl+Shift+Z', intent: 'redo', says: 'Redo', while: 'both' },
  { keys: 'Ctrl+Y', intent: 'redo', says: 'Redo', while: 'both' },
]

/** Ctrl+V is the browser's own: a paste of several lines becomes lines wherever it lands. */
export const FURTHER_KEYS = [
  { keys: 'Ctrl+V', says: 'Paste a list, an outline, or lines from another menu' },
  {
    keys: 'Tab, Enter',
    says: 'In the second language: to the next label of it; with Shift to the one before',
  },
  { keys: 'Shift+click, Ctrl+click', says: 'Choose up to there, or one more' },
] as const

export function pressed(event: KeyboardEvent): string {
  // With Alt held, many keyboards write another sign: the key itself counts then.
  const own = event.altKey ? /^(?:Key|Digit)(.)$/.exec(event.code)?.[1] : undefined
  const key = own ?? (event.key.length === 1 ? event.key.toUpperCase() : event.key)
  const held = [(event.ctrlKey || event.metaKey) && 'Ctrl', event.altKey && 'Alt', event.shiftKey && 'Shift']
  return [...held.filter(Boolean), key].join('+')
}

/** Whether the key writes a sign: AltGr and Option do on many keyboards, and an input method has its own Enter. */
function writes(event: KeyboardEvent): boolean {
  if (event.nativeEvent.isComposing || event.getModifierState('AltGraph')) return true
  const own = /^(?:Key|Digit)(.)$/.exec(event.code)?.[1]
  return event.altKey && event.key.length === 1 && own !== undefined && event.key.toUpperCase() !== own
}

export function intentOf(event: KeyboardEvent, typing: boolean): Intent | null {
  if (typing && writes(event)) return null
  const keys = pressed(event)
  if (/^Alt\+[0-4]$/.test(keys)) return 'levels'
  const rule = KEY_RULES.find(
    (one) => one.keys === keys && (one.while === 'both' || (one.while === 'typing') === typing),
  )
  return rule?.intent ?? null
}
