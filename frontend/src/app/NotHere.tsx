import { Link } from '@tanstack/react-router'
import { useLens } from '../lens/useLens'
import { useTitle } from '../parts/useTitle'

/** An address at which there is no view. */
export function NotHere() {
  useTitle('Nothing here')
  const lens = useLens()
  return (
    <div className="px-[18px] py-6">
      <h1 className="mb-1">Nothing hangs at this address</h1>
      <p className="max-w-[60ch] text-ink-2">
        It may have been typed wrongly, or lead to something that has another name now. Every site and menu
        can be found from the{' '}
        <Link to="/shelf" search={lens} className="underline">
          shelf
        </Link>
        .
      </p>
    </div>
  )
}
