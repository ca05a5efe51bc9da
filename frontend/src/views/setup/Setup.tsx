import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import type { Schemas } from '../../api/client'
import { sessionQuery, templatesQuery } from '../../api/queries'
import { Button } from '../../parts/Button'
import { Empty } from '../../parts/Empty'
import { Mark } from '../../parts/Mark'
import { PageHead } from '../../parts/PageHead'
import { type Column, Table } from '../../parts/Table'
import { Trouble } from '../../parts/Trouble'
import { Facts } from './Facts'
import { Fonts } from './Fonts'
import { KeptMail } from './KeptMail'
import { People } from './People'
import { Teams } from './Teams'
import { TemplateEditor } from './TemplateEditor'

/** What all sites share: templates with their versions, and fonts. */
export function Setup() {
  const session = useQuery(sessionQuery)
  const editable = session.data?.may_edit ?? false
  const templates = useQuery(templatesQuery)
  const [open, setOpen] = useState<{ name: string; version: number } | null>(null)
  const columns: Column<Schemas['Offer']>[] = [
    {
      says: 'template',
      head: true,
      room: 'pr-3',
      className: 'font-semibold',
      cell: (one) => (
        <>
          {one.title} <span className="font-normal text-ink-2">version {one.version}</span>
        </>
      ),
    },
    {
      says: 'places',
      said: true,
      room: 'pr-3',
      className: 'text-ink-2',
      cell: (one) => `${one.locations}: ${one.shapes.join(', ')}`,
    },
    { says: 'levels', said: true, room: 'pr-3', className: 'text-ink-2', cell: (one) => one.deepest },
    {
      says: 'on a phone',
      said: true,
      room: 'pr-3',
      className: 'text-ink-2',
      cell: (one) => one.phone.join(', ') || 'nothing',
    },
    {
      says: 'used by',
      said: true,
      room: 'pr-3',
      cell: (one) => (
        <>
          {one.used_by.join(', ') || <Mark kind="open">no site</Mark>}
          {!one.newest && one.used_by.length > 0 && (
            <>
              {' '}
              <Mark kind="waiting">newer version</Mark>
            </>
          )}
        </>
      ),
    },
    {
      says: 'what can be done',
      quiet: true,
      cell: (one) =>
        one.newest && (
          <Button
            small
            aria-label={`Look at ${one.title}`}
            onClick={() => setOpen({ name: one.key, version: one.version })}
          >
            {editable ? 'Change' : 'Look'}
          </Button>
        ),
    },
  ]
  return (
    <div className="px-[18px] py-3.5">
      <PageHead names={['Setup']} />
      <Trouble query={templates} />
      <div className="grid grid-cols-[minmax(0,1fr)_360px] gap-8 max-lg:grid-cols-[minmax(0,1fr)]">
        <section aria-label="Templates">
          <h2>Templates</h2>
          <Table
            caption="Templates and what they offer"
            className="mt-1"
            columns={columns}
            rows={templates.data}
            keyOf={(one) => `${one.key} ${one.version}`}
            empty={<Empty says="No template is kept. One is made when the first site is taken in." />}
          />
          <Facts editable={editable} />
        </section>
        <div>
          <Fonts editable={editable} />
          {session.data?.may_people && <People me={session.data.email} />}
          {session.data?.may_people && <Teams me={session.data.email} />}
          {session.data?.may_keys && <KeptMail />}
        </div>
      </div>
      {open && <TemplateEditor {...open} editable={editable} onClose={() => setOpen(null)} />}
    </div>
  )
}
