import { Link } from '@tanstack/react-router'
import type { Schemas } from '../../api/client'
import { useLens } from '../../lens/useLens'
import { Mark } from '../../parts/Mark'
import { Miniature } from '../../parts/Miniature'

const PLATE =
  'relative rounded-sign px-2 pt-1.5 pb-[5px] before:absolute before:top-[5px] before:left-[5px] before:size-[3px] before:rounded-full before:bg-hair after:absolute after:top-[5px] after:right-[5px] after:size-[3px] after:rounded-full after:bg-hair'

const WHERE_FROM = {
  own: null,
  inherited: 'as on wider screens',
  'stand-in': 'as the header',
  none: 'none',
} as const

/** One location's menu as a plate. Where the place exists on another device only, it leans on its neighbour. */
export function Sign({ site, sign }: { site: string; sign: Schemas['Sign'] }) {
  const lens = useLens()
  const title = sign.leaning ? `${sign.title}, on a ${sign.device}` : sign.title
  if (!sign.menu) {
    return (
      <Link
        to="/sites/$site"
        params={{ site }}
        search={lens}
        data-sign
        aria-label={`${title}: nothing hangs here`}
        className={`${PLATE} min-h-[95px] min-w-[104px] border-[1.5px] border-dashed border-ink-3 text-ink-3`}
      >
        <span className="block px-1.5 text-center text-note">{sign.title}</span>
        <span className="mt-4 block text-center text-small">nothing hangs here</span>
      </Link>
    )
  }
  const lean = sign.leaning
    ? '-ml-2 min-w-[62px] origin-bottom-left rotate-[2.2deg] bg-paper'
    : 'min-w-[104px] bg-plate'
  const inherited = WHERE_FROM[sign.placement]
  return (
    <Link
      to="/sites/$site/menus/$menu"
      params={{ site, menu: sign.menu }}
      search={lens}
      data-sign
      data-ahead
      aria-label={`${title}: ${sign.menu_name}, ${sign.count} entries${sign.hidden ? ` of which this visitor gets ${sign.count - sign.hidden}` : ''}, ${sign.depth} deep${sign.pending ? `, ${sign.pending} still open` : ''}${sign.changed ? ', changed' : ''}`}
      className={`${PLATE} border-[1.5px] border-ink ${lean} hover:border-dusk`}
    >
      <span className="mb-[5px] block px-1.5 text-center text-note text-ink-2">
        {sign.leaning ? sign.title.replace(/^phone /i, '') : sign.title}
      </span>
      <Miniature bars={sign.bars} shape={sign.shape} />
      <span className="mt-1.5 flex justify-between gap-2 border-t border-paper-2 pt-[3px] text-note whitespace-nowrap text-ink-2">
        <span>
          {sign.hidden > 0 ? `${sign.count - sign.hidden} of ${sign.count}` : sign.count}
          {sign.depth > 1 && !sign.leaning && ` · ${sign.depth} deep`}
        </span>
        {sign.changed ? (
          <Mark kind="waiting">draft</Mark>
        ) : sign.pending > 0 ? (
          <Mark kind="open">{sign.pending} open</Mark>
        ) : (
          inherited && <span className="text-ink-3">{inherited}</span>
        )}
      </span>
    </Link>
  )
}
