import { Link } from '@tanstack/react-router'
import { NotebookText, Ruler, User } from 'lucide-react'
import type { Schemas } from '../api/client'
import { SignOut } from './SignOut'
import { useLens } from './useLens'

const PLACE =
  'relative flex flex-col items-center gap-[3px] px-0.5 pt-2 pb-[7px] text-[12px] opacity-85 hover:opacity-100 data-[status=active]:bg-rail-2 data-[status=active]:opacity-100 data-[status=active]:before:absolute data-[status=active]:before:inset-y-0 data-[status=active]:before:left-0 data-[status=active]:before:w-[3px] data-[status=active]:before:bg-wood-2'

/** Two planks with a sign on each: the shelf's own mark. */
function Planks() {
  return (
    <svg viewBox="0 0 38 30" className="mx-auto mb-3 w-[38px]" aria-hidden="true">
      <path d="M7 8V2h24v6M4 23v-6h20v6" fill="none" stroke="currentColor" strokeWidth="1.5" />
      <path d="M0 10.500h38M0 25.500h38" stroke="var(--wood-2)" strokeWidth="3" />
    </svg>
  )
}

function ShelfIcon() {
  return (
    <svg
      viewBox="0 0 24 24"
      className="size-5"
      aria-hidden="true"
      fill="none"
      stroke="currentColor"
      strokeWidth="1.6"
      strokeLinejoin="round"
      strokeLinecap="round"
    >
      <path d="M3 20h18M5 20V9h5v11M12 20V5h4v15M18 20v-8h2v8" />
    </svg>
  )
}

export function Rail({ person }: { person: Schemas['PersonOut'] }) {
  const lens = useLens()
  return (
    <nav aria-label="Sign Shelf" className="row-span-2 flex flex-col bg-rail py-2.5 text-rail-ink">
      <Planks />
      <Link to="/shelf" search={lens} className={PLACE}>
        <ShelfIcon />
        Shelf
      </Link>
      <Link to="/ledger" search={lens} className={PLACE}>
        <NotebookText className="size-5" strokeWidth={1.6} aria-hidden="true" />
        Ledger
      </Link>
      <Link to="/setup" search={lens} className={PLACE}>
        <Ruler className="size-5" strokeWidth={1.6} aria-hidden="true" />
        Setup
      </Link>
      <Link to="/you" search={lens} className={`${PLACE} mt-auto`} title={`${person.name}, ${person.role}`}>
        <User className="size-5" strokeWidth={1.6} aria-hidden="true" />
        <span className="max-w-[72px] truncate">{person.name}</span>
      </Link>
      <SignOut person={person.id} className={PLACE} />
    </nav>
  )
}
