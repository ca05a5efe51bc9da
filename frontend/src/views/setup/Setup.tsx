import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { sessionQuery, templatesQuery } from '../../api/queries'
import { Button } from '../../parts/Button'
import { Mark } from '../../parts/Mark'
import { Trouble } from '../../parts/Trouble'
import { useTitle } from '../../parts/useTitle'
import { Facts } from './Facts'
import { Fonts } from './Fonts'
import { People } from './People'
import { TemplateEditor } from './TemplateEditor'

/** What all sites share: templates with their versions, and fonts. */
export function Setup() {
  useTitle('Setup')
  const session = useQuery(sessionQuery)
  const editable = session.data?.may_edit ?? false
  const templates = useQuery(templatesQuery)
  const [open, setOpen] = useState<{ name: string; version: number } | null>(null)
  return (
    <div className="px-[18px] py-3.5">
      <h1 className="mb-3">Setup</h1>
      <Trouble query={templates} />
      <div className="grid grid-cols-[minmax(0,1fr)_360px] gap-8 max-lg:grid-cols-[minmax(0,1fr)]">
        <section aria-label="Templates">
          <h2>Templates</h2>
          <table className="stacks mt-1 w-full text-left text-[13.5px]">
            <caption className="sr-only">Templates and what they offer</caption>
            <thead className="text-[12px] text-ink-2">
              <tr>
                {['template', 'places', 'levels', 'on a phone', 'used by'].map((says) => (
                  <th key={says} scope="col" className="py-1 pr-3 font-normal">
                    {says}
                  </th>
                ))}
                <td />
              </tr>
            </thead>
            <tbody>
              {templates.data?.map((one) => (
                <tr key={`${one.key} ${one.version}`} className="border-t border-hair align-baseline">
                  <th scope="row" className="py-1.5 pr-3 font-semibold">
                    {one.title} <span className="font-normal text-ink-2">version {one.version}</span>
                  </th>
                  <td data-says="places" className="pr-3 text-ink-2">
                    {one.locations}: {one.shapes.join(', ')}
                  </td>
                  <td data-says="levels" className="pr-3 text-ink-2">
                    {one.deepest}
                  </td>
                  <td data-says="on a phone" className="pr-3 text-ink-2">
                    {one.phone.join(', ') || 'nothing'}
                  </td>
                  <td data-says="used by" className="pr-3">
                    {one.used_by.join(', ') || <Mark kind="open">no site</Mark>}
                    {!one.newest && one.used_by.length > 0 && (
                      <>
                        {' '}
                        <Mark kind="waiting">newer version</Mark>
                      </>
                    )}
                  </td>
                  <td>
                    {one.newest && (
                      <Button
                        small
                        aria-label={`Look at ${one.title}`}
                        onClick={() => setOpen({ name: one.key, version: one.version })}
                      >
                        {editable ? 'Change' : 'Look'}
                      </Button>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          <Facts editable={editable} />
        </section>
        <div>
          <Fonts editable={editable} />
          {session.data?.may_people && <People me={session.data.email} />}
        </div>
      </div>
      {open && <TemplateEditor {...open} editable={editable} onClose={() => setOpen(null)} />}
    </div>
  )
}
