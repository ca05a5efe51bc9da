import { useState } from 'react'
import type { Schemas } from '../../api/client'
import { Button } from '../../parts/Button'

/** Where a site that asks gets its menus, and its keys. */
export function Delivered({ site }: { site: Schemas['SitePage'] }) {
  const [shown, setShown] = useState(false)
  return (
    <p className="mb-2 flex items-baseline gap-2 text-[13px] text-ink-2">
      The site asks for its menus at <code>{`${window.location.origin}/live/${site.key}/…`}</code>
      {shown && (
        <>
          <code className="text-ink">{site.delivery_key}</code>
          and signs facts with <code className="text-ink">{site.facts_key}</code>
        </>
      )}
      <Button small tone="quiet" onClick={() => setShown(!shown)}>
        {shown ? 'hide its keys' : 'show its keys'}
      </Button>
    </p>
  )
}
