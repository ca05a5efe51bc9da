import type { Schemas } from '../api/client'
import { languageName } from '../lens/lens'
import { Choice } from '../parts/Choice'
import { Mark } from '../parts/Mark'
import { Scrolled } from '../parts/Scrolled'
import { Tick } from '../parts/Tick'

interface Props {
  table: Schemas['IncomingTable']
  languages: readonly string[]
  onSaid: (said: { columns: string[]; headed: boolean }) => void
}

/** Which column of a table is what. It is asked where its first line does not say so. */
export function Columns({ table, languages, onSaid }: Props) {
  const roles = table.columns.map((one) => one.role)
  const options = [
    ['', 'left out'],
    ['label', 'label'],
    ...languages.slice(1).map((tag) => [`label:${tag}`, `label in ${languageName(tag)}`] as const),
    ['target', 'address'],
    ['path', 'number'],
    ['level', 'level'],
    ['kind', 'kind'],
    ['settings', 'settings'],
    ['menu', 'menu'],
    ['told', 'told, not read'],
  ] as const
  return (
    <section aria-label="Which column is what" className="border-y border-hair py-1.5 text-small">
      <p className="mb-1 flex flex-wrap items-baseline gap-x-4">
        {table.sure ? (
          'Its first line says what each column is.'
        ) : (
          <Mark kind="open">Which column is what?</Mark>
        )}
        <Tick checked={table.headed} onTick={(headed) => onSaid({ columns: roles, headed })}>
          the first line names the columns
        </Tick>
      </p>
      <Scrolled label="The columns" className="flex gap-3 pb-1">
        {table.columns.map((column, at) => (
          <span key={at} className="flex w-[130px] flex-none flex-col">
            <Choice
              aria-label={`Column ${at + 1}${column.head ? `, ${column.head}` : ''}`}
              value={column.role}
              onChoose={(role) =>
                onSaid({
                  columns: roles.map((one, place) => (place === at ? role : one)),
                  headed: table.headed,
                })
              }
              options={options}
            />
            {column.head && <strong className="truncate">{column.head}</strong>}
            {column.samples.map((sample) => (
              <span key={sample} className="truncate text-ink-2">
                {sample}
              </span>
            ))}
          </span>
        ))}
      </Scrolled>
      {roles.filter((one) => one === 'label').length > 1 && (
        <p className="text-ink-2">Several columns of labels are the levels of the menu, from the top.</p>
      )}
    </section>
  )
}
