import { useQuery } from '@tanstack/react-query'
import { type ReactNode, useState } from 'react'
import { pagesQuery } from '../../api/queries'
import { Button } from '../../parts/Button'
import { Choice } from '../../parts/Choice'
import { Input } from '../../parts/Input'

type Named = Readonly<Record<string, string>>

interface Props {
  site: string
  details: Named
  onDetails: (details: Record<string, string>) => void
  roles: Named
  onRoles: (roles: Record<string, string>) => void
}

/** What shared menus that the site follows have filled in here: its details, and which of its pages is which. */
export function ForShared({ site, details, onDetails, roles, onRoles }: Props) {
  const pages = useQuery(pagesQuery(site, '', 500)).data ?? []
  return (
    <section aria-label="For shared menus" className="mt-3">
      <h3 className="font-bold">For shared menus</h3>
      <Lines
        named={details}
        onChange={onDetails}
        shown={(name) => `{site.${name}}`}
        fits={/^[A-Za-z_][A-Za-z0-9_.-]{0,63}$/}
        asks="a detail, such as phone"
        field={(name, value, put) => (
          <Input
            aria-label={`The site’s ${name}`}
            className="min-w-0 flex-1"
            value={value}
            maxLength={500}
            onChange={(event) => put(event.target.value)}
          />
        )}
      />
      <Lines
        named={roles}
        onChange={onRoles}
        shown={(role) => `@${role}`}
        fits={/^[^\s#,@{}"<>]{1,200}$/}
        asks="a page, such as privacy"
        field={(role, value, put) => (
          <Choice
            aria-label={`Its ${role} page`}
            className="min-w-0 flex-1"
            value={value}
            onChoose={put}
            options={[
              ['', 'which page'],
              ...pages.map((one) => [one.ref, Object.values(one.title)[0] ?? one.path] as const),
            ]}
          />
        )}
      />
    </section>
  )
}

interface LinesProps {
  named: Named
  onChange: (named: Record<string, string>) => void
  /** How a name stands in a shared menu. */
  shown: (name: string) => string
  fits: RegExp
  asks: string
  field: (name: string, value: string, put: (value: string) => void) => ReactNode
}

function Lines({ named, onChange, shown, fits, asks, field }: LinesProps) {
  const [name, setName] = useState('')
  const wanted = name.trim()
  const may = fits.test(wanted) && !(wanted in named)
  const add = () => {
    if (!may) return
    onChange({ ...named, [wanted]: '' })
    setName('')
  }
  return (
    <>
      <ul>
        {Object.entries(named).map(([one, value]) => (
          <li key={one} className="flex items-baseline gap-2 border-t border-hair py-0.5">
            <code className="w-[150px] truncate">{shown(one)}</code>
            {field(one, value, (next) => onChange({ ...named, [one]: next }))}
            <Button
              small
              tone="quiet"
              aria-label={`Take ${one} away`}
              onClick={() =>
                onChange(Object.fromEntries(Object.entries(named).filter(([key]) => key !== one)))
              }
            >
              take away
            </Button>
          </li>
        ))}
      </ul>
      <span className="flex items-baseline gap-2 py-0.5">
        <Input
          aria-label={asks}
          placeholder={asks}
          className="mono w-[220px]"
          value={name}
          onChange={(event) => setName(event.target.value)}
          onKeyDown={(event) => event.key === 'Enter' && add()}
        />
        <Button small disabled={!may} onClick={add}>
          Add
        </Button>
      </span>
    </>
  )
}
