import { useQuery } from '@tanstack/react-query'
import { Popover } from 'radix-ui'
import { useDeferredValue, useId, useState } from 'react'
import type { Schemas } from '../../../api/client'
import { iconsQuery } from '../../../api/queries'
import type { Item } from '../../../outline/tree'
import { labelOf } from '../../../outline/words'
import { Button } from '../../../parts/Button'
import { Combobox } from '../../../parts/Combobox'
import { DayField } from '../../../parts/DayField'
import { Input } from '../../../parts/Input'
import { Popup } from '../../../parts/Popup'
import { Tick } from '../../../parts/Tick'
import { useUnfinished } from '../../../parts/unfinished'
import { Words } from '../../../parts/Words'
import { InLanguage, Line, type SetItem } from './line'
import { NotShown } from './NotShown'

type Look = NonNullable<Extract<Item, { kind: 'link' }>['look']>

interface Props {
  item: Item
  can: Schemas['Abilities']
  languages: readonly string[]
  editable: boolean
  set: SetItem
}

/** How strongly the item speaks, its icon, badge, picture and style hooks. */
export function Dress({ item, can, languages, editable, set }: Props) {
  const look: Look = ('look' in item && item.look) || {}
  const change = (fields: Partial<Look>, run = 'look') =>
    set((before) => {
      const next = Object.entries({ ...('look' in before ? before.look : {}), ...fields }).filter(
        ([, value]) => value !== undefined && value !== '' && value !== false && value !== 'plain',
      )
      const { look: _, ...rest } = before as { look?: Look }
      return (next.length > 0 ? { ...rest, look: Object.fromEntries(next) } : rest) as Item
    }, run)
  const speaks = look.emphasis ?? 'plain'
  return (
    <>
      <Line name="speaks">
        <span className="flex flex-wrap items-baseline gap-x-4 gap-y-1">
          <Words
            dotted
            name="How it speaks"
            value={speaks}
            options={['plain', 'strong', 'button']}
            disabled={!editable}
            onChoose={(emphasis) => change({ emphasis, size: emphasis === 'button' ? look.size : undefined })}
          />
          {speaks === 'button' && (
            <Words
              dotted
              name="Size of the button"
              value={look.size ?? 'm'}
              options={['s', 'm', 'l', 'xl']}
              disabled={!editable}
              onChoose={(size) => change({ size })}
            />
          )}
        </span>
        <NotShown can={can} what="buttons" set={speaks === 'button'} />
      </Line>
      <Line name="icon">
        <span className="flex flex-wrap items-center gap-x-3 gap-y-1">
          <IconChooser
            name={look.icon ?? null}
            editable={editable}
            onChoose={(icon) => change(icon ? { icon } : { icon: undefined, icon_only: undefined })}
          />
          {look.icon && (
            <Tick
              disabled={!editable}
              checked={look.icon_only ?? false}
              onTick={(checked) => change({ icon_only: checked })}
            >
              alone on wide screens
            </Tick>
          )}
        </span>
        <NotShown can={can} what="icons" set={look.icon !== undefined} />
        {look.icon_only && (
          <small className="block text-ink-2">
            Readers of the screen hear “{labelOf(item, languages) || 'the page’s title'}”.
          </small>
        )}
      </Line>
      <Line name="badge">
        <BadgeFields badge={look.badge} languages={languages} editable={editable} change={change} />
        <NotShown can={can} what="badges" set={look.badge !== undefined} />
      </Line>
      <Line name="picture">
        <Input
          className="w-full"
          aria-label="Address of the picture"
          placeholder="none; an address such as /boat.jpg"
          disabled={!editable}
          value={look.picture ?? ''}
          onChange={(event) => change({ picture: event.target.value.trim() }, 'picture')}
        />
        <NotShown can={can} what="pictures" set={look.picture !== undefined} />
      </Line>
      <Line name="hooks">
        <Hooks
          key={`${item.id} ${look.hooks}`}
          hooks={look.hooks ?? []}
          disabled={!editable}
          onChange={(hooks) => change({ hooks: hooks.length > 0 ? hooks : undefined })}
        />
      </Line>
    </>
  )
}

/** Names for the site's styles, with spaces between them; they are kept once one has typed the last. */
function Hooks(props: { hooks: readonly string[]; disabled: boolean; onChange: (hooks: string[]) => void }) {
  const kept = props.hooks.join(' ')
  const [text, setText] = useState(kept)
  const typed = text.split(/[\s,]+/).filter(Boolean)
  const unfinished = typed.join(' ') !== kept
  const finish = () => unfinished && props.onChange(typed)
  useUnfinished(unfinished, finish)
  return (
    <Input
      className="w-full"
      aria-label="Style hooks"
      placeholder="none; names for the site’s styles"
      disabled={props.disabled}
      value={text}
      onChange={(event) => setText(event.target.value)}
      onBlur={finish}
    />
  )
}

/** Icons beside each other. */
const COLUMNS = 8

/** Icons found by word, out of the shipped set. */
function IconChooser(props: {
  name: string | null
  editable: boolean
  onChoose: (name: string | null) => void
}) {
  const [open, setOpen] = useState(false)
  const [words, setWords] = useState('')
  const [at, setAt] = useState(0)
  const found = useQuery({ ...iconsQuery(useDeferredValue(words)), enabled: open })
  const own = useQuery({ ...iconsQuery(props.name ?? '', 1), enabled: props.name !== null })
  const shown = own.data?.[0]
  const choose = (name: string | null) => {
    setOpen(false)
    props.onChoose(name)
  }
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger asChild>
        <Button small disabled={!props.editable} aria-label={`Icon: ${props.name ?? 'none'}`}>
          <span className="flex items-center gap-1.5">
            {props.name && shown?.name === props.name && <Icon svg={shown.svg} />}
            {props.name ?? 'none'}
          </span>
        </Button>
      </Popover.Trigger>
      <Popup label="Choose an icon" align="start" className="w-[372px]">
        <Combobox
          label="Find an icon by word"
          listLabel="Icons"
          placeholder="a word, such as boat, ticket, garden"
          words={words}
          onWords={(next) => {
            setWords(next)
            setAt(0)
          }}
          options={found.data ?? []}
          keyOf={(icon) => icon.name}
          columns={COLUMNS}
          at={at}
          onAt={setAt}
          onEnter={(icon) => icon && choose(icon.name)}
          onTake={(icon) => choose(icon.name)}
          className="px-3 py-2"
          listClassName="grid max-h-[260px] grid-cols-8 gap-1 p-2"
        >
          {(icon) => (
            <span title={icon.name} className={icon.name === props.name ? 'bg-ink text-paper' : ''}>
              <Icon svg={icon.svg} />
              <span className="sr-only">{icon.name}</span>
            </span>
          )}
        </Combobox>
        <p className="flex items-baseline justify-between border-t border-hair px-3 py-1.5 text-note text-ink-2">
          {found.data?.length === 0 ? 'No icon answers to that.' : 'Lucide, an open set'}
          {props.name && (
            <Button small tone="quiet" onClick={() => choose(null)}>
              no icon
            </Button>
          )}
        </p>
      </Popup>
    </Popover.Root>
  )
}

/** The server's own drawing: shapes of the shipped set, nothing that anybody typed. */
function Icon({ svg }: { svg: string }) {
  return (
    <span
      aria-hidden="true"
      className="block size-5 [&>svg]:size-5"
      dangerouslySetInnerHTML={{ __html: svg }}
    />
  )
}

type BadgeOf = NonNullable<Look['badge']>

function BadgeFields(props: {
  badge: Look['badge']
  languages: readonly string[]
  editable: boolean
  change: (fields: Partial<Look>, run?: string) => void
}) {
  const id = useId()
  const { languages, editable } = props
  const badge: BadgeOf | undefined = props.badge ?? undefined
  const put = (fields: Partial<BadgeOf>) => {
    const next = { ...(badge ?? { label: {} }), ...fields }
    const label = Object.fromEntries(Object.entries(next.label).filter(([, words]) => words))
    const { until, tone } = next
    const kept = { label, ...(tone && tone !== 'plain' && { tone }), ...(until && { until }) }
    props.change({ badge: Object.keys(label).length > 0 ? (kept as BadgeOf) : undefined }, 'badge')
  }
  return (
    <span className="grid gap-1">
      {languages.map((language) => (
        <InLanguage
          key={language}
          name="Badge"
          language={language}
          placeholder={languages[0] === language ? 'none; a word such as New' : ''}
          disabled={!editable || (languages[0] !== language && !badge)}
          value={badge?.label[language] ?? ''}
          onChange={(words) => put({ label: { ...(badge?.label ?? {}), [language]: words } })}
        />
      ))}
      {badge && (
        <span className="flex items-baseline gap-3">
          <Words
            dotted
            name="Tone of the badge"
            value={badge.tone ?? 'plain'}
            options={['plain', 'accent', 'warn']}
            disabled={!editable}
            onChoose={(tone) => put({ tone })}
          />
          <span className="flex items-baseline gap-1.5 text-ink-2">
            <label htmlFor={`${id}-until`}>until</label>
            <DayField
              id={`${id}-until`}
              disabled={!editable}
              value={badge.until ?? ''}
              onChange={(day) => put({ until: day || null })}
            />
          </span>
        </span>
      )}
    </span>
  )
}
