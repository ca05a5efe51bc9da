import { within } from '../../api/inside'
import { Button } from '../../parts/Button'
import { Menu, MenuAct } from '../../parts/Menu'
import { monthOf } from '../../parts/times'

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
        const { month, named } = monthOf(back)
        return (
          <MenuAct key={back} asChild>
            <a href={`/api/sites/${site}/report?month=${month}`} target="_blank" rel="noopener">
              The client’s {named}, to print or send
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
