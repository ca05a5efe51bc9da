import { useQuery } from '@tanstack/react-query'
import { ledgerQuery } from '../../api/queries'
import { Trouble } from '../../parts/Trouble'
import { when } from '../../parts/times'
import { useTitle } from '../../parts/useTitle'

/** Who did what, newest first. */
export function Ledger() {
  useTitle('Ledger')
  const ledger = useQuery(ledgerQuery)
  return (
    <div className="max-w-[980px] px-[18px] py-3.5">
      <h1 className="mb-3">Ledger</h1>
      <Trouble query={ledger} />
      <table className="stacks w-full text-left">
        <caption className="sr-only">Who did what, newest first</caption>
        <thead className="text-[12px] text-ink-2">
          <tr>
            <th scope="col" className="w-32 py-1 font-normal">
              when
            </th>
            <th scope="col" className="w-36 font-normal">
              who
            </th>
            <th scope="col" className="w-32 font-normal">
              site
            </th>
            <th scope="col" className="font-normal">
              what
            </th>
          </tr>
        </thead>
        <tbody>
          {ledger.data?.map((line) => (
            <tr key={line.id} className="border-t border-hair align-baseline">
              <td className="mono py-1.5 text-ink-2">{when(line.at)}</td>
              <td>{line.person ?? 'the shelf'}</td>
              <td className="text-ink-2">{line.site}</td>
              <td>{line.says}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  )
}
