import { useQuery } from '@tanstack/react-query'
import type { Schemas } from '../../../api/client'
import { pagesQuery } from '../../../api/queries'
import { relabelled } from '../../../outline/pointing'
import type { Item } from '../../../outline/tree'
import { Button } from '../../../parts/Button'
import { Mark } from '../../../parts/Mark'
import { InLanguage, Line, type SetItem } from './line'

interface Props {
  item: Item
  site: Schemas['SitePage']
  languages: readonly string[]
  editable: boolean
  set: SetItem
}

/** The label in every language of the site, beside what the page itself is called. */
export function Says({ item, site, languages, editable, set }: Props) {
  const label = ('label' in item && item.label) || {}
  const page = usePage(site.key, item)
  const named = Object.keys(label).length > 0
  return (
    <Line name="says">
      {languages.map((language) => (
        <InLanguage
          key={language}
          name="Label"
          language={language}
          disabled={!editable}
          placeholder={
            named ? 'missing' : (page?.title[language] ?? Object.values(page?.title ?? {})[0] ?? '')
          }
          value={label[language] ?? ''}
          onChange={(words) => set((before) => relabelled(before, language, words), `label-${language}`)}
        >
          {named && !label[language] && languages.length > 1 && <Mark kind="open">missing</Mark>}
        </InLanguage>
      ))}
      {page && (
        <span className="mt-0.5 flex items-baseline gap-2 text-small text-ink-2">
          <span className="truncate">page title: {Object.values(page.title).join(' / ')}</span>
          {named && editable && (
            <Button
              small
              tone="quiet"
              title="Alt+T"
              onClick={() => set((before) => ({ ...before, label: {} }) as Item, 'title')}
            >
              say this instead
            </Button>
          )}
        </span>
      )}
    </Line>
  )
}

export function usePage(site: string, item: Item) {
  const ref = item.kind === 'link' && 'page' in item.target ? item.target.page : ''
  const pages = useQuery({ ...pagesQuery(site, ref, 8), enabled: ref !== '' })
  return ref ? pages.data?.find((page) => page.ref === ref) : undefined
}
