import { within } from '../../api/inside'
import { Button } from '../../parts/Button'
import { Menu, MenuAct } from '../../parts/Menu'

const FORMS = [
  ['csv', 'A table of all menus (CSV), with whole addresses'],
  ['json', 'The whole site (site document, JSON)'],
] as const

/** This one, and the one that is over. */
const MONTHS = [0, 1]

/** All menus of the site, for a spreadsheet, on paper, or for another shelf. */
export function TakeOut({ site }: { site: string }) {
  const address = (form: string) => within(`/api/sites/${site}/export/${form}`)
  return (
    <Menu button={<Button small>Take out</Button>}>
      <MenuAct asChild>
        <a href={address('print')} target="_blank" rel="noopener">
          All menus, to print
        </a>
      </MenuAct>
      {MONTHS.map((back) => {
        const month = new Date(new Date().getFullYear(), new Date().getMonth() - back, 15)
        const named = `${month.getFullYear()}-${String(month.getMonth() + 1).padStart(2, '0')}`
        return (
          <MenuAct key={back} asChild>
            <a href={`/api/sites/${site}/report?month=${named}`} target="_blank" rel="noopener">
              The client’s {month.toLocaleString('en', { month: 'long', year: 'numeric' })}, to print or send
            </a>
          </MenuAct>
        )
      })}
      {FORMS.map(([form, says]) => (
        <MenuAct key={form} asChild>
          <a href={address(form)} download>
            {says}
          </a>
        </MenuAct>
      ))}
    </Menu>
  )
}
