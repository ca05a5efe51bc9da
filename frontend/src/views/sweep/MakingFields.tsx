import { type ReactNode, useId } from 'react'
import { Choice } from '../../parts/Choice'
import { Input } from '../../parts/Input'
import { Tick } from '../../parts/Tick'
import type { Act, Typed } from './making'

interface Props {
  act: Act
  typed: Typed
  onType: (typed: Typed) => void
}

/** What there is to say of the edit. */
export function MakingFields({ act, typed, onType }: Props) {
  const text = (name: 'to' | 'label' | 'find' | 'by' | 'icon' | 'rule' | 'language', more: object = {}) => (
    <Input
      value={typed[name]}
      onChange={(event) => onType({ ...typed, [name]: event.target.value })}
      {...more}
    />
  )
  switch (act) {
    case 'retarget':
      return (
        <Said says="to">
          {(id) => text('to', { id, size: 34, placeholder: '/fares, https://…, mailto:…, tel:…, pending' })}
        </Said>
      )
    case 'relabel':
      return (
        <>
          <Said says="in">{(id) => text('language', { id, size: 5, maxLength: 20 })}</Said>
          <Said says="is">
            {(id) => text('label', { id, size: 24, placeholder: 'nothing: takes it away' })}
          </Said>
        </>
      )
    case 'replace':
      return (
        <>
          <Said says="in">
            {(id) => (
              <Choice
                id={id}
                value={typed.within}
                options={[
                  ['label', 'labels'],
                  ['address', 'addresses'],
                ]}
                onChoose={(within) => onType({ ...typed, within: within as Typed['within'] })}
              />
            )}
          </Said>
          <Said says="the text">{(id) => text('find', { id, size: 18 })}</Said>
          <Said says="becomes">{(id) => text('by', { id, size: 18 })}</Said>
          <Tick checked={typed.pattern} onTick={(pattern) => onType({ ...typed, pattern })}>
            as a pattern, with its groups as \1
          </Tick>
        </>
      )
    case 'look':
      return (
        <>
          <Said says="emphasis">
            {(id) => (
              <Choice
                id={id}
                value={typed.emphasis}
                options={[['', 'as it is'], 'plain', 'strong', 'button']}
                onChoose={(emphasis) => onType({ ...typed, emphasis: emphasis as Typed['emphasis'] })}
              />
            )}
          </Said>
          <Said says="icon">
            {(id) => text('icon', { id, size: 14, placeholder: 'as it is; - for none' })}
          </Said>
        </>
      )
    case 'rule':
      return (
        <Said says="only when">
          {(id) => text('rule', { id, size: 34, placeholder: 'nothing: everybody sees them' })}
        </Said>
      )
    case 'window':
      return (
        <>
          {(['from', 'until'] as const).map((name) => (
            <Said key={name} says={name}>
              {(id) => (
                <Input
                  id={id}
                  type="datetime-local"
                  value={typed[name]}
                  onChange={(event) => onType({ ...typed, [name]: event.target.value })}
                />
              )}
            </Said>
          ))}
          <span className="text-ink-2">on each site’s own clock</span>
        </>
      )
    case 'remove':
      return <span className="text-ink-2">with what stands below them</span>
  }
}

function Said({ says, children }: { says: string; children: (id: string) => ReactNode }) {
  const id = useId()
  return (
    <span className="inline-flex items-baseline gap-1.5">
      <label htmlFor={id} className="text-ink-2">
        {says}
      </label>
      {children(id)}
    </span>
  )
}
