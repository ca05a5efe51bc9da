/** Every key that means something, by where it does: what the help shows. */
import { FURTHER_KEYS, KEY_RULES } from '../outline/keys'

interface Keys {
  where: string
  /** The path of the views in which they hold; absent: everywhere. */
  at?: RegExp
  rules: readonly { keys: string; says: string }[]
}

export const KEY_MAP: readonly Keys[] = [
  {
    where: 'Everywhere',
    rules: [
      { keys: '?', says: 'These keys' },
      {
        keys: 'Ctrl+.',
        says: 'Where to: a site, a menu, a page, or something to be done, by name',
      },
      { keys: 'Tab', says: 'At the top of a view: past the fingerpost and the lens' },
      { keys: 'Escape', says: 'Closes what stands over the view; asks first where something is not kept' },
    ],
  },
  { where: 'The outline of a menu', at: /\/menus\//, rules: [...KEY_RULES, ...FURTHER_KEYS] },
  {
    where: 'The shelf',
    at: /^\/shelf/,
    rules: [
      { keys: 'ArrowLeft, ArrowRight', says: 'Along a board, from sign to sign' },
      { keys: 'ArrowUp, ArrowDown', says: 'To the nearest sign of the board above or below' },
      { keys: 'Enter', says: 'Opens the menu' },
    ],
  },
  {
    where: 'Audiences',
    at: /\/audiences\//,
    rules: [
      { keys: 'Arrows', says: 'From mark to mark' },
      { keys: 'Enter, Space', says: 'Why it is seen, or not' },
    ],
  },
  {
    where: 'On a sheet',
    rules: [
      { keys: 'Ctrl+Z', says: 'Takes the last step back' },
      { keys: 'Ctrl+Shift+Z', says: 'Does it again' },
    ],
  },
  {
    where: 'In a field for a day',
    rules: [
      { keys: 'ArrowDown', says: 'Opens the month' },
      { keys: 'Arrows', says: 'Days and weeks on or back' },
      { keys: 'PageUp, PageDown', says: 'A month back or on' },
      { keys: 'Home, End', says: 'Monday or Sunday of the week' },
    ],
  },
]
