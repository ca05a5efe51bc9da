import type { ReactNode } from 'react'
import type { Schemas } from '../api/client'
import { Choice } from './Choice'
import { ColourField } from './ColourField'
import { Field } from './Field'
import { Input } from './Input'

type Look = Schemas['PlaceLook']
type Key = keyof Look

interface Props {
  look: Look
  fonts: readonly string[]
  onChange: (look: Look) => void
}

/** Every key of a look, in the groups that a sign-maker would think of. */
export function LookFields({ look, fonts, onChange }: Props) {
  const set = (key: Key, value: unknown) => onChange({ ...look, [key]: value })
  const px = (key: Key, says: string, step = 1) => (
    <Field says={says}>
      {(id) => (
        <Input
          id={id}
          type="number"
          step={step}
          value={look[key] === null ? '' : Number(look[key])}
          onChange={(event) => set(key, event.target.value === '' ? null : Number(event.target.value))}
          className="w-[72px] text-right"
        />
      )}
    </Field>
  )
  const word = (key: Key, says: string, options: readonly (string | [string, string])[], none?: string) => (
    <Field says={says}>
      {(id) => (
        <Choice
          id={id}
          value={String(look[key] ?? '')}
          onChoose={(value) => set(key, value || null)}
          className="max-w-[190px]"
        >
          {none !== undefined && <option value="">{none}</option>}
          {options.map((one) => {
            const [value, shown] = typeof one === 'string' ? [one, one] : one
            return (
              <option key={value} value={value}>
                {shown}
              </option>
            )
          })}
        </Choice>
      )}
    </Field>
  )
  const colour = (key: Key, says: string, otherwise?: Key) => (
    <ColourField
      says={says}
      value={look[key] as string | null}
      otherwise={otherwise && (look[otherwise] as string)}
      onChange={(value) => set(key, value)}
    />
  )
  const yes = (key: Key, says: string) => (
    <Field says={says}>
      {(id) => (
        <input
          id={id}
          type="checkbox"
          checked={Boolean(look[key])}
          onChange={(event) => set(key, event.target.checked)}
        />
      )}
    </Field>
  )
  const padding = (size: 's' | 'm' | 'l' | 'xl') => (
    <Field key={size} says={`button ${size}, inside`}>
      {(id) => (
        <Input
          id={id}
          type="number"
          value={look.button_padding?.[size] ?? 0}
          onChange={(event) =>
            set('button_padding', { ...look.button_padding, [size]: Number(event.target.value) })
          }
          className="w-[72px] text-right"
        />
      )}
    </Field>
  )
  const LINES = ['none', 'underline', 'thick'] as const
  return (
    <div className="text-small">
      <Group says="Type">
        {word('font', 'font', fonts, 'the usual one')}
        {px('size', 'size, px', 0.5)}
        {px('weight', 'weight', 50)}
        {px('letter_spacing', 'letter spacing, px', 0.1)}
        {word('case', 'case', ['none', ['uppercase', 'capitals']])}
      </Group>
      <Group says="Colours">
        {colour('text', 'words')}
        {colour('ground', 'ground')}
        {word('line', 'line', LINES)}
        {colour('hover_text', 'words, hover', 'text')}
        {colour('hover_ground', 'ground, hover', 'ground')}
        {word('hover_line', 'line, hover', LINES)}
        {colour('current_text', 'words, current', 'text')}
        {colour('current_ground', 'ground, current', 'ground')}
        {word('current_line', 'line, current', LINES)}
        {colour('open_text', 'words, open', 'text')}
        {colour('open_ground', 'ground, open', 'ground')}
        {word('open_line', 'line, open', LINES)}
        {colour('accent', 'buttons and badges')}
        {colour('accent_text', 'words on them')}
        {colour('below_text', 'words of levels below')}
        {colour('below_ground', 'ground of levels below')}
      </Group>
      <Group says="Room">
        {px('gap', 'between entries, px')}
        {px('padding', 'inside an entry, px')}
        {px('inner_gap', 'between its parts, px')}
        {px('gutter', 'at the edges, px')}
        {px('reserved', 'kept for the name, px')}
        {px('max', 'at most wide, px')}
        {px('icon_size', 'icon, px')}
        {word('icon_side', 'icon stands', [
          ['start', 'before the words'],
          ['end', 'after the words'],
        ])}
        {px('caret_width', 'sign of levels below, px')}
        {px('badge_size', 'badge words, px', 0.5)}
        {px('badge_padding', 'badge, inside, px')}
        {(['s', 'm', 'l', 'xl'] as const).map(padding)}
      </Group>
      <Group says="Behaviour">
        {word('align', 'entries stand', [
          ['start', 'at the start'],
          ['centre', 'in the middle'],
          ['end', 'at the end'],
          ['fill', 'over the whole width'],
        ])}
        {word(
          'direction',
          'direction',
          [
            ['ltr', 'left to right'],
            ['rtl', 'right to left'],
            ['reversed', 'reversed order'],
          ],
          'as the language',
        )}
        {word('overflow', 'too many', ['wrap', 'scroll', 'drawer'])}
        {px('drawer_below', 'drawer below, px')}
        {word('opens', 'levels below open', ['drop-down', 'beside', 'columns', 'panel', 'in-place'])}
        {word('effect', 'with effect', ['none', 'fade', 'slide'])}
        {yes('folded', 'entries start folded')}
        {yes('remember', 'and remember it')}
      </Group>
    </div>
  )
}

function Group({ says, children }: { says: string; children: ReactNode }) {
  return (
    <fieldset className="mb-3">
      <legend className="mb-1 text-body font-bold">{says}</legend>
      {children}
    </fieldset>
  )
}
