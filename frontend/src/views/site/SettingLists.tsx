import { useState } from 'react'
import type { Schemas } from '../../api/client'
import { Button } from '../../parts/Button'
import { Choice } from '../../parts/Choice'
import { Input } from '../../parts/Input'

interface LanguagesProps {
  languages: readonly string[]
  called: (language: string) => string
  onChange: (languages: string[]) => void
}

/** The languages of the site, the first of them its own. */
export function Languages({ languages, called, onChange }: LanguagesProps) {
  const [tag, setTag] = useState('')
  const wanted = tag.trim()
  const fits = /^[a-z]{2,3}(-[A-Za-z0-9]{1,8})*$/.test(wanted) && !languages.includes(wanted)
  const add = () => {
    if (!fits) return
    onChange([...languages, wanted])
    setTag('')
  }
  return (
    <section aria-label="Languages" className="mt-3">
      <h3 className="font-bold">Languages</h3>
      <ol>
        {languages.map((language, at) => (
          <li key={language} className="flex items-baseline gap-2 border-t border-hair py-0.5">
            <span className="flex-1">
              {called(language)} <code className="text-ink-2">{language}</code>
              {at === 0 && <span className="text-ink-2"> the site’s own</span>}
            </span>
            {at > 0 && (
              <Button
                small
                tone="quiet"
                aria-label={`${called(language)} first`}
                onClick={() => onChange([language, ...languages.filter((one) => one !== language)])}
              >
                first
              </Button>
            )}
            {languages.length > 1 && (
              <Button
                small
                tone="quiet"
                aria-label={`Take ${called(language)} away`}
                onClick={() => onChange(languages.filter((one) => one !== language))}
              >
                take away
              </Button>
            )}
          </li>
        ))}
      </ol>
      <span className="flex items-baseline gap-2">
        <Input
          aria-label="Another language, by its tag"
          placeholder="a tag, such as nl or pt-BR"
          className="mono w-[220px]"
          value={tag}
          onChange={(event) => setTag(event.target.value)}
          onKeyDown={(event) => event.key === 'Enter' && add()}
        />
        <Button small disabled={!fits} onClick={add}>
          Add {fits ? called(wanted) : ''}
        </Button>
      </span>
    </section>
  )
}

type Host = Schemas['OtherHostBody']
const KINDS: readonly Host['kind'][] = ['staging', 'demo', 'old', 'alias']

/** Other hosts at which the site is, or was: links to them are told. */
export function Hosts({ hosts, onChange }: { hosts: readonly Host[]; onChange: (hosts: Host[]) => void }) {
  const put = (at: number, more: Partial<Host>) =>
    onChange(hosts.map((one, place) => (place === at ? { ...one, ...more } : one)))
  return (
    <section aria-label="Other hosts" className="mt-3">
      <h3 className="font-bold">Other hosts</h3>
      <ul>
        {hosts.map((one, at) => (
          <li key={at} className="flex items-baseline gap-2 border-t border-hair py-0.5">
            <Input
              aria-label={`Host ${at + 1}`}
              className="mono min-w-0 flex-1"
              value={one.host}
              onChange={(event) => put(at, { host: event.target.value })}
            />
            <Choice
              aria-label={`What host ${at + 1} is`}
              value={one.kind}
              onChoose={(kind) => put(at, { kind: kind as Host['kind'] })}
              options={KINDS}
            />
            <Button
              small
              tone="quiet"
              aria-label={`Take ${one.host} away`}
              onClick={() => onChange(hosts.filter((_, place) => place !== at))}
            >
              take away
            </Button>
          </li>
        ))}
      </ul>
      <Button small onClick={() => onChange([...hosts, { host: '', kind: 'staging' }])}>
        Add a host
      </Button>
    </section>
  )
}
