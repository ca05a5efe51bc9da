import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import type { Schemas } from '../../api/client'
import { plainQuery } from '../../api/queries'
import { Button } from '../../parts/Button'
import { Trouble } from '../../parts/Trouble'

/** The codes of entries that are not in a page's HTML. */
export const NOT_IN_HTML: readonly string[] = ['crawl-place', 'crawl-entry']

/** What mends entries that only a script makes: the place's navigation as plain HTML, to be put into the site's pages. */
export function PlainNavigation({ use }: { use: Schemas['UseOut'] }) {
  const location = use.finding.location ?? ''
  const plain = useQuery(plainQuery(use.site, location))
  const [copied, setCopied] = useState(false)
  return (
    <section aria-label="What mends it" className="mb-3">
      <h3 className="font-bold text-ink-2">What mends it</h3>
      <p className="text-small">
        This navigation in the HTML of {use.site_name}’s pages: it needs no script, and whoever listens to the
        page can jump to it.
      </p>
      <Trouble query={plain} />
      {plain.data && (
        <>
          <textarea
            readOnly
            aria-label={`${plain.data.title} as plain HTML`}
            value={plain.data.html}
            rows={6}
            onFocus={(event) => event.currentTarget.select()}
            className="mono mt-1 w-full border border-hair bg-plate px-2 py-1 text-small"
          />
          <Button
            small
            onClick={async () => {
              await navigator.clipboard.writeText(plain.data.html)
              setCopied(true)
            }}
          >
            Copy the HTML
          </Button>
          {copied && (
            <span role="status" className="ml-2 text-small">
              Copied.
            </span>
          )}
          <p className="mt-1 text-small text-ink-2">
            So that it follows what goes live, have the site ask for it with its delivery key (Accept:
            text/html):
            <span className="mono block break-all">{plain.data.given_at}</span>
          </p>
        </>
      )}
    </section>
  )
}
