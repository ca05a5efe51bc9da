import { useQuery } from '@tanstack/react-query'
import { memo, useEffect, useState } from 'react'
import type { Schemas } from '../../api/client'
import { factsQuery, ruleQuery } from '../../api/queries'
import { useLens } from '../../lens/useLens'
import { Mark } from '../Mark'
import { useUnfinished } from '../unfinished'
import { useSettled } from '../useSettled'
import { Words } from '../Words'
import { Chooser } from './Chooser'
import { Typed } from './Typed'
import { type Part, written } from './written'

const PAUSE_MS = 250

interface Props {
  site: string
  label: string
  /** The rule as it is kept; empty: everyone. */
  value: string
  /** The rules of what the item stands below. */
  above: readonly string[]
  disabled: boolean
  /** When the item shows, to follow the rule's words. */
  during?: string
  /** Why nobody sees it, whatever its rule says. */
  unseen?: string
  onChange: (rule: string) => void
}

/** A rule, built by choosing or typed: both show the same rule, with its words, and whom it lets see. */
export const RuleField = memo(function RuleField(props: Props) {
  const { site, label, value, above, disabled, during = '', unseen, onChange } = props
  const lens = useLens()
  const known = useQuery(factsQuery(site)).data?.known ?? []
  const [typing, setTyping] = useState(false)
  const [text, setText] = useState(value)
  const [built, setBuilt] = useState<{ part: Part; rule: string } | null>(null)
  useEffect(() => setText(value), [value])
  const settled = useSettled(text, PAUSE_MS)
  const asked = settled.trim() || 'always'
  const read = useQuery(ruleQuery(site, lens, asked, above)).data
  const fresh = read && read.text === (text.trim() || 'always') ? read : undefined
  const keep = (next: string) => {
    const kept = next === 'always' ? '' : next
    setText(kept)
    if (kept !== value) onChange(kept)
  }
  useUnfinished(!disabled && text.trim() !== value.trim(), () => keep(text.trim()))
  const build = (part: Part | null) => {
    const rule = part ? written(part) : ''
    setBuilt(part && { part, rule })
    keep(rule)
  }
  // What was chosen last stands there at once; the next choice may come before it was read.
  const part = built?.rule === text ? built.part : ((fresh?.part as Part | null | undefined) ?? undefined)
  const problems = fresh?.problems ?? []
  const typed = typing || (read !== undefined && read.part === null)
  return (
    <div className="min-w-0">
      <Words
        name="How the rule is edited"
        value={typed ? 'type' : 'choose'}
        options={['choose', 'type']}
        closed={read?.part === null ? ['choose'] : []}
        onChoose={(one) => setTyping(one === 'type')}
        className="text-note text-ink-2"
      />
      {typed ? (
        <Typed
          label={label}
          value={text}
          problems={problems}
          known={known}
          disabled={disabled}
          onType={setText}
          onDone={() => keep(text.trim())}
        />
      ) : (
        (part ?? read?.part) && (
          <Chooser
            part={part ?? (read?.part as Part)}
            known={known}
            disabled={disabled || part === undefined}
            onChange={build}
          />
        )
      )}
      {fresh?.says && <p className="mt-1 text-small text-ink-2">{`${fresh.says}${during}.`}</p>}
      {unseen && <p className="mt-1 text-note text-ink-2">seen by nobody: {unseen}</p>}
      {!unseen && fresh && problems.length === 0 && <SeenBy told={fresh} />}
    </div>
  )
})

/** Whom of the site's audiences the rule lets see it, and what is true of it whoever comes. */
function SeenBy({ told }: { told: Schemas['RuleOut'] }) {
  return (
    <>
      <p className="mt-1 flex flex-wrap gap-x-2.5 gap-y-0.5 text-note">
        <span className="text-ink-2">seen by</span>
        {told.seen_by.map((one) => (
          <span key={one.audience} title={one.says}>
            <Mark kind={one.value === true ? 'ok' : one.value === null ? 'waiting' : 'open'}>
              {one.audience}
              {one.value === null && ': unknown'}
              {one.value === false && ': no'}
            </Mark>
          </span>
        ))}
      </p>
      {told.never === true && (
        <p className="text-small">
          <Mark kind="stop">
            nobody can ever meet it{told.nothing_new ? '' : ', with what it stands below'}
          </Mark>
        </p>
      )}
      {told.never !== true && told.nothing_new && (
        <p className="text-small text-ink-2">Says nothing new: whoever sees what it stands below meets it.</p>
      )}
    </>
  )
}
