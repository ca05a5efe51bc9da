import { useState } from 'react'
import type { Schemas } from '../api/client'
import { Button } from '../parts/Button'
import { useAct } from './acts'
import { GoingOut } from './GoingOut'
import type { usePutLive } from './usePutLive'

interface Props {
  site: Schemas['SitePage']
  live: ReturnType<typeof usePutLive>
  disabled: boolean
  /** Saves what waits; false where it cannot be. */
  flush?: () => Promise<boolean>
}

/** The way to live: first it is told what goes, then it does. */
export function PutLive({ site, live, disabled, flush }: Props) {
  const [open, setOpen] = useState(false)
  const [unsaved, setUnsaved] = useState(false)
  const tell = async () => {
    const saved = flush ? await flush() : true
    setUnsaved(!saved)
    setOpen(saved)
  }
  useAct('Put live', disabled || live.running ? null : () => void tell())
  return (
    <>
      {unsaved && (
        <span role="alert" className="text-small text-signal">
          Settle or save your edits first.
        </span>
      )}
      <Button tone="go" onClick={() => void tell()} disabled={disabled || live.running}>
        Put live
      </Button>
      {open && (
        <GoingOut
          site={site}
          onPut={live.put}
          error={live.error}
          pending={live.running}
          onClose={() => setOpen(false)}
        />
      )}
    </>
  )
}
