import { Link } from '@tanstack/react-router'
import { memo } from 'react'
import type { Schemas } from '../../api/client'
import type { Somebody } from '../../api/there'
import { PutLive } from '../../app/PutLive'
import { usePutLive } from '../../app/usePutLive'
import { useLens } from '../../lens/useLens'
import type { SaveState } from '../../outline/saver'
import type { MenuDocument } from '../../outline/tree'
import type { Editor } from '../../outline/useEditor'
import { Button } from '../../parts/Button'
import { Input } from '../../parts/Input'
import { Mark } from '../../parts/Mark'
import { Others } from '../../parts/Others'
import { StepButtons } from '../../parts/StepButtons'
import { clock, when } from '../../parts/times'
import { useAnythingUnfinished } from '../../parts/unfinished'
import { TheyMeet } from './TheyMeet'
import { WhatChanged } from './WhatChanged'

interface Props {
  bench: Schemas['BenchPage']
  name: string
  onName: (name: string) => void
  save: SaveState
  /** Whether the browser keeps what is not saved yet. */
  kept: boolean
  /** Settles now the conflicts that were left for later. */
  onSettle: () => void
  merged: { by: string[]; did: string[] } | null
  /** Who else is in the same change. */
  people: readonly Somebody[]
  changes: Schemas['Edits']
  document: () => MenuDocument
  onMended: (document: MenuDocument, says: string) => void
  onItem: (id: string) => void
  editor: Editor
  editable: boolean
  flush: () => Promise<boolean>
}

/** Whose menu it is, what is saved, what is live, and the way there. */
export const BenchHeader = memo(function BenchHeader(props: Props) {
  const { bench, name, onName, save, kept, onSettle, merged, changes, editor, editable, flush } = props
  const lens = useLens()
  const { site } = bench
  const live = usePutLive(site.key)
  return (
    <header className="col-span-full flex min-h-[46px] flex-wrap items-center gap-x-2.5 gap-y-1 border-b border-hair px-[18px] py-1 whitespace-nowrap">
      <Link
        to="/sites/$site"
        params={{ site: site.key }}
        search={lens}
        data-ahead
        className="text-ink-2 hover:underline"
      >
        {site.name}
      </Link>
      <span className="text-ink-2">›</span>
      <h1 className="text-head">
        {editable ? (
          <Input
            aria-label="Name of the menu"
            value={name}
            size={Math.max(6, name.length)}
            onChange={(event) => event.target.value.trim() && onName(event.target.value)}
            className="font-bold"
          />
        ) : (
          name
        )}
      </h1>
      {bench.follows && (
        <Link
          to="/shared"
          search={{ ...lens, menu: bench.key.replace('shared:', '') } as never}
          className="text-small text-ink-2 underline"
          title="What you change here is an adjustment of this site’s, and is kept when the shared menu moves on."
        >
          follows a shared menu
        </Link>
      )}
      {changes.count > 0 && (
        <Mark kind="waiting">draft, {changes.count === 1 ? '1 edit' : `${changes.count} edits`}</Mark>
      )}
      <Saved save={save} kept={kept} onSettle={onSettle} />
      {merged && <MergeNote {...merged} />}
      <Others people={props.people} />
      <TheyMeet people={props.people} site={site.key} menu={bench.key} />
      <div className="ml-auto flex flex-wrap items-center gap-2 max-sm:ml-0">
        <LiveState bench={bench} release={live.release} differs={changes.count > 0} />
        <WhatChanged
          bench={bench}
          changes={changes}
          editable={editable}
          document={props.document}
          onMended={props.onMended}
          onItem={props.onItem}
        />
        {editable && (
          <>
            <StepButtons steps={editor} />
            <PutLive
              site={site}
              live={live}
              flush={flush}
              disabled={changes.count === 0 && !site.change && save.status === 'saved'}
            />
          </>
        )}
      </div>
    </header>
  )
})

function Saved({ save, kept, onSettle }: Pick<Props, 'save' | 'kept' | 'onSettle'>) {
  const typing = useAnythingUnfinished()
  if (!kept && save.status !== 'saved')
    return (
      <span role="alert" className="text-signal">
        <Mark kind="stop">not saved yet, and this browser has no room to keep it: stay here until it is</Mark>
      </span>
    )
  switch (save.status) {
    case 'saved':
      if (typing) return <span className="text-ink-2">still being typed, not saved yet</span>
      return <span className="text-ink-2">saved {clock(save.at)}</span>
    case 'waiting':
    case 'saving':
      return <span className="text-ink-2">saving …</span>
    case 'conflict':
      return (
        <span className="flex items-baseline gap-2">
          <Mark kind="stop">two edits meet, not saved yet</Mark>
          <Button small onClick={onSettle}>
            Settle them
          </Button>
        </span>
      )
    case 'failed':
      return (
        <span role="alert" className="truncate text-signal" title={String(save.error)}>
          <Mark kind="stop">
            not saved
            {save.again ? ', trying again' : `: ${save.error instanceof Error ? save.error.message : ''}`}
          </Mark>
        </span>
      )
  }
}

function MergeNote({ by, did }: { by: string[]; did: string[] }) {
  return (
    <span role="status" className="truncate text-dusk" title={did.join('. ')}>
      merged with {by.join(', ')}: {did[0]}
      {did.length > 1 && ` and ${did.length - 1} more`}
    </span>
  )
}

function LiveState({
  bench,
  release,
  differs,
}: {
  bench: Schemas['BenchPage']
  release: Schemas['ReleaseOut'] | null
  /** Whether the menu is another than what is live. */
  differs: boolean
}) {
  const last = release ?? bench.site.release
  if (last?.state === 'putting back') {
    return (
      <span role="alert" className="max-w-[420px] truncate" title={last.says}>
        <Mark kind="stop">not live, putting back what was: {last.says}</Mark>
      </span>
    )
  }
  if (last?.state === 'waiting' || last?.state === 'sending') {
    return (
      <span role="status">
        <Mark kind="waiting">
          going live, {last.done} of {last.of} places verified
        </Mark>
      </span>
    )
  }
  if (last?.state === 'by hand') {
    return (
      <span role="status" title={last.says}>
        <Link to="/sync" search={{ site: bench.site.key } as never}>
          <Mark kind="next">to be done on the site by hand</Mark>
        </Link>
      </span>
    )
  }
  if (last?.state === 'failed' && differs) {
    return (
      <span role="alert" className="max-w-[420px] truncate" title={last.says}>
        <Mark kind="stop">not live: {last.says}</Mark>
      </span>
    )
  }
  if (!bench.live_since) {
    return (
      <span role="status">
        <Mark kind="open">never live yet{bench.places.length === 0 && ', hangs nowhere'}</Mark>
      </span>
    )
  }
  return (
    <span role="status" className="flex items-center gap-2">
      <Mark kind={bench.places.length === 0 ? 'open' : 'ok'}>
        {bench.places.length === 0
          ? 'hangs nowhere'
          : release?.finished_at
            ? `live and verified ${when(release.finished_at)}`
            : `live since ${when(bench.live_since)}`}
      </Mark>
      <a href={bench.site.base} target="_blank" rel="noopener noreferrer" className="text-small underline">
        open the live page ↗
      </a>
    </span>
  )
}
