import { useQuery } from '@tanstack/react-query'
import { Link } from '@tanstack/react-router'
import { useState } from 'react'
import { oneChangeQuery } from '../../api/queries'
import { useThere } from '../../api/there'
import { MenuGoes } from '../../app/MenuGoes'
import { useLens } from '../../lens/useLens'
import { Button } from '../../parts/Button'
import { Mark } from '../../parts/Mark'
import { Others } from '../../parts/Others'
import { Trouble } from '../../parts/Trouble'
import { when } from '../../parts/times'
import { Waiting } from '../../parts/Waiting'
import { Brings } from './Brings'
import { STANDS, stands } from './ChangeLines'
import { Goes } from './Goes'
import { MenuRails } from './MenuRails'
import { Begin, Remarks, RemarksOn } from './Remarks'
import { SignOffs } from './SignOffs'
import { SinceLooked } from './SinceLooked'
import { Verdict } from './Verdict'

/** One change: what it does to each of its sites, what was said of it, and what can be done with it. */
export function OneChange({ id }: { id: string }) {
  const found = useQuery(oneChangeQuery(id))
  const lens = useLens()
  const [at, setAt] = useState<string | null>(null)
  const [beside, setBeside] = useState<string | null>(null)
  const writing = (...on: string[]) => ({
    writing: at === on.join(' '),
    onWrite: (begin: boolean) => setAt(begin ? on.join(' ') : null),
  })
  const people = useThere(id, {})
  const told = found.data
  if (!told)
    return (
      <>
        <Trouble query={found} />
        {!found.error && <Waiting />}
      </>
    )
  const { change } = told
  const editors = new Set(
    told.parts.flatMap((part) => part.menus.flatMap((menu) => menu.edits.first.map((edit) => edit.by))),
  )
  return (
    <>
      <header className="mb-2">
        <h2 className="flex flex-wrap items-baseline gap-x-3 text-head font-bold break-words">
          {change.title}
          <Mark kind={STANDS[change.state]}>{stands(change)}</Mark>
          <Others people={people} />
        </h2>
        {change.why && <p>{change.why}</p>}
        <p className="text-small text-ink-2">
          Begun {when(change.created_at)} by {change.author ?? 'the shelf itself'}
        </p>
      </header>
      <Trouble query={found} />
      <SinceLooked key={id} change={id} content={told.content} />
      <Verdict told={told} />
      <Goes told={told} />
      <SignOffs told={told} />
      {told.parts.map((part) => (
        <section key={part.key} aria-label={part.name} className="mb-3">
          <h3 className="flex flex-wrap items-baseline gap-x-3 font-bold text-ink-2">
            {part.name}
            {part.behind && <Mark kind="stop">live has moved on: settle that first</Mark>}
            <Link
              to="/sites/$site"
              params={{ site: part.key }}
              search={{ ...lens, in: id }}
              className="ml-auto text-small font-normal underline"
            >
              look at it in this change
            </Link>
          </h3>
          {part.menus.length === 0 && part.site.length === 0 && (
            <p className="text-ink-2">
              {part.told ? 'Nothing yet, or only what nobody gets.' : 'One of many: look at it there.'}
            </p>
          )}
          {part.menus.map((menu) => (
            <MenuGoes
              key={menu.menu}
              menu={menu}
              several={editors.size > 1}
              beside={(item) => item && <Begin {...writing(part.key, menu.menu, item)} />}
              beneath={(item) =>
                item && (
                  <RemarksOn
                    change={id}
                    told={told}
                    on={{ site: part.key, menu: menu.menu, item }}
                    {...writing(part.key, menu.menu, item)}
                  />
                )
              }
            >
              <Button
                small
                tone="quiet"
                aria-expanded={beside === `${part.key} ${menu.menu}`}
                aria-label={`Before and after of ${menu.name}`}
                onClick={() =>
                  setBeside((open) =>
                    open === `${part.key} ${menu.menu}` ? null : `${part.key} ${menu.menu}`,
                  )
                }
              >
                before and after
              </Button>
              <Link
                to="/sites/$site/menus/$menu"
                params={{ site: part.key, menu: menu.menu }}
                search={{ ...lens, in: id }}
                className="text-small font-normal underline"
              >
                on the bench
              </Link>
            </MenuGoes>
          ))}
          {part.menus.map(
            (menu) =>
              beside === `${part.key} ${menu.menu}` && (
                <MenuRails key={menu.menu} change={id} site={part.key} menu={menu.menu} name={menu.name} />
              ),
          )}
          {part.told && part.menus.length + part.site.length > 0 && <Brings change={id} site={part.key} />}
          {part.site.length > 0 && (
            <section className="border-t border-hair py-2">
              <h4 className="font-bold">The site itself</h4>
              <ul>
                {part.site.map((says) => (
                  <li key={says}>{says}</li>
                ))}
              </ul>
            </section>
          )}
        </section>
      ))}
      <Remarks change={id} told={told} />
    </>
  )
}
