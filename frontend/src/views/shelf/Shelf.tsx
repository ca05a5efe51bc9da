import { useQuery } from '@tanstack/react-query'
import { Link } from '@tanstack/react-router'
import { useRef } from 'react'
import { sessionQuery, shelfQuery } from '../../api/queries'
import { useLens } from '../../app/useLens'
import { Told } from '../../parts/Told'
import { WorkerAway } from '../../parts/WorkerAway'
import { Board } from './Board'
import { walkSigns } from './walk'

export function Shelf() {
  const lens = useLens()
  const session = useQuery(sessionQuery)
  const shelf = useQuery(shelfQuery(lens))
  const boards = useRef<HTMLDivElement>(null)
  return (
    <div className="px-[18px] py-3.5">
      <div className="mb-2.5 flex items-center gap-4">
        <h1>Shelf</h1>
        {shelf.data && (
          <span className="text-ink-2">
            {shelf.data.length} {shelf.data.length === 1 ? 'site' : 'sites'} ·{' '}
            {shelf.data.filter((board) => board.draft).length} with a draft
          </span>
        )}
        {session.data?.may_edit && (
          <Link
            to="/take-in"
            search={lens}
            className="ml-auto rounded-sign border border-ink bg-plate px-2 py-px text-[12.5px] font-semibold hover:bg-paper-2"
          >
            Take in a site
          </Link>
        )}
      </div>
      <Told error={shelf.error} />
      <WorkerAway />
      {shelf.data?.length === 0 && (
        <p className="mt-16 text-center text-[16px] text-ink-2">
          The shelf is empty. <strong className="text-ink">Take in a site</strong> to read its pages and
          menus.
        </p>
      )}
      {/* biome-ignore lint/a11y/noStaticElementInteractions: the signs inside take the focus, the arrows walk among them */}
      <div ref={boards} onKeyDown={(event) => walkSigns(event, boards.current)}>
        {shelf.data?.map((board) => (
          <Board key={board.key} board={board} />
        ))}
      </div>
    </div>
  )
}
