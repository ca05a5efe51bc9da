import { useState } from 'react'
import type { Schemas } from '../../api/client'
import { Button } from '../../parts/Button'
import { Choice } from '../../parts/Choice'
import { Input } from '../../parts/Input'
import { Mark } from '../../parts/Mark'

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
const KINDS = [
  ['staging', 'for trying things'],
  ['demo', 'for showing'],
  ['old', 'no longer in use'],
  ['alias', 'the site’s as well'],
  ['client', 'another client’s'],
] as const satisfies readonly (readonly [Host['kind'], string])[]

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

interface PlacesProps {
  site: Schemas['SitePage']
  /** What the site calls locations of its template, where it is another name. */
  called: Readonly<Record<string, string>>
  onChange: (called: Record<string, string>) => void
}

/** Which of the site's own places each place of its template is. */
export function PlacesMatched({ site, called, onChange }: PlacesProps) {
  const own = Object.keys(site.can.places ?? {})
  if (own.length === 0) return null
  return (
    <section aria-label="Places" className="mt-3">
      <h3 className="font-bold">Places of the template, as the site calls them</h3>
      <ul>
        {site.locations.map(({ key, title }) => {
          const name = called[key] ?? key
          return (
            <li key={key} className="flex items-baseline justify-between gap-3 border-t border-hair py-0.5">
              <span>
                {title} {!own.includes(name) && <Mark kind="stop">the site has no such place</Mark>}
              </span>
              <Choice
                aria-label={`What the site calls ${title}`}
                value={own.includes(name) ? name : ''}
                onChoose={(chosen) => {
                  const { [key]: _, ...others } = called
                  onChange(chosen && chosen !== key ? { ...others, [key]: chosen } : others)
                }}
                options={[['', 'none of its places'], ...own.map((one) => [one, one] as const)]}
              />
            </li>
          )
        })}
      </ul>
    </section>
  )
}

interface SeenAtProps {
  site: Schemas['SitePage']
  /** CSS selectors by location. */
  seenAt: Readonly<Record<string, string>>
  onChange: (seenAt: Record<string, string>) => void
}

/** Where on its pages each place stands, for a site that is read as its visitors get it. */
export function SeenAt({ site, seenAt, onChange }: SeenAtProps) {
  const read = site.locations.filter((one) => one.readable && one.shape !== 'section')
  return (
    <section aria-label="Places on its pages" className="mt-3">
      <h3 className="font-bold">Where its places stand on its pages</h3>
      <ul>
        {read.map(({ key, title }) => (
          <li key={key} className="flex items-baseline justify-between gap-3 border-t border-hair py-0.5">
            <span>{title}</span>
            <Input
              aria-label={`Where ${title} stands on its pages, as a CSS selector`}
              placeholder="a CSS selector; without one, by likeness"
              className="mono w-[280px]"
              value={seenAt[key] ?? ''}
              onChange={(event) => {
                const { [key]: _, ...others } = seenAt
                const selector = event.target.value
                onChange(selector.trim() ? { ...others, [key]: selector } : others)
              }}
            />
          </li>
        ))}
      </ul>
    </section>
  )
}

/** The places of the template that the site does not have. */
export function unmatched(site: Schemas['SitePage']): string[] {
  const own = site.can.places
  if (!own) return []
  return site.locations.filter((one) => !(one.called in own)).map((one) => one.title)
}
