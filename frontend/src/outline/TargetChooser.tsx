import { useQuery, useQueryClient } from '@tanstack/react-query'
import { Popover } from 'radix-ui'
import { useDeferredValue, useEffect, useMemo, useRef, useState } from 'react'
import type { Schemas } from '../api/client'
import { listingQuery, pagesLaterQuery, pagesQuery, siteQuery, vocabularyQuery } from '../api/queries'
import { Combobox } from '../parts/Combobox'
import { Mark } from '../parts/Mark'
import { Popup } from '../parts/Popup'
import { Trouble } from '../parts/Trouble'
import { type Choice, type ListQuery, type Offer, offersFor, pageWords } from './choices'
import { choseRecently, recentPages } from './recent'

interface Props {
  site: string
  menu: string
  /** The menu as it is saved, and the language that its lists are ordered in. */
  hash: string
  language: string
  anchor: DOMRect
  /** What is looked for before anything is typed. */
  wanted: string
  /** Whether somebody wrote these words as a note: they stay, whatever is found for them. */
  noted: boolean
  onChoose: (choice: Choice) => void
  /** The first that is found for the words is meant, once the search is through. */
  onChooseLater: (words: string, found: Promise<Choice | undefined>) => void
  onClose: () => void
}

const SIGNS = [
  '@ page',
  '# part',
  '! overlay',
  '* list of pages',
  '+ menu',
  '/…{fact} own page',
  '? nothing yet',
]

/** The pages chosen last stand first while nothing is typed. */
function recentFirst(site: string, words: string, pages: Schemas['PageOut'][]): Schemas['PageOut'][] {
  if (words.trim()) return pages
  const recent = recentPages(site)
  const place = (page: Schemas['PageOut']) =>
    (recent.indexOf(page.ref) + recent.length + 1) % (recent.length + 1)
  return [...pages].sort((a, b) => {
    const [one, two] = [recent.includes(a.ref), recent.includes(b.ref)]
    return one && two ? place(a) - place(b) : Number(two) - Number(one)
  })
}

/** Whether the offer holds for the words as they stand, whatever a search that is still under way will find. */
function isSure({ page, key }: Offer, words: string, at: number): boolean {
  // An address within the site may turn out to be a page's.
  if (!page) return at > 0 || !(key === 'pending' || words.trim().startsWith('/'))
  const text =
    `${Object.values(page.title).join(' ')} ${page.path} ${page.type} ${page.ref}`.toLocaleLowerCase()
  return pageWords(words)
    .toLocaleLowerCase()
    .split(/\s+/)
    .every((word) => text.includes(word))
}

/** Search over the site's pages; everything else that a line can lead to by typing it. */
export function TargetChooser({
  site,
  menu,
  hash,
  language,
  anchor,
  wanted,
  noted,
  onChoose,
  onChooseLater,
  onClose,
}: Props) {
  const queries = useQueryClient()
  const [words, setWords] = useState(wanted)
  const [typed, setTyped] = useState(noted)
  const [at, setAt] = useState(0)
  const input = useRef<HTMLInputElement>(null)
  const vocabulary = useQuery(vocabularyQuery(site))
  const usual = useQuery(siteQuery(site)).data?.usual_outside ?? null
  const elsewhere = /^(https?:|[!*?]|\+(?!\d))/i.test(words.trim()) || words.includes('{')
  const searched = useDeferredValue(words)
  const found = useQuery({ ...pagesQuery(site, pageWords(searched), words ? 8 : 40), enabled: !elsewhere })
  const settled = elsewhere
    ? vocabulary.data !== undefined
    : searched === words && found.isSuccess && !found.isPlaceholderData
  const offers = useMemo(() => {
    const pages = elsewhere ? [] : recentFirst(site, words, found.data ?? []).slice(0, 8)
    return offersFor(words, pages, { vocabulary: vocabulary.data, usual, menu })
  }, [site, words, elsewhere, found.data, vocabulary.data, usual, menu])

  const choose = (offer: Offer | undefined) => {
    if (!offer) return
    if (offer.page) choseRecently(site, offer.page.ref)
    onChoose(offer.choice)
  }
  const onWords = (next: string) => {
    setTyped(true)
    setWords(next)
    setAt(0)
  }
  // No page is called as the line is: what was chosen last is offered then, as where there are no words.
  const nameless = !typed && words !== '' && settled && found.data?.length === 0
  useEffect(() => {
    // What was typed in the moment between the answer and this stays.
    if (nameless) setWords((now) => (now === wanted ? '' : now))
  }, [nameless, wanted])
  /** The first offer for the words as they stand, whenever its search is through. */
  const lookUp = async (): Promise<Choice | undefined> => {
    const known = await queries.fetchQuery(vocabularyQuery(site))
    const pages = elsewhere ? [] : await queries.fetchQuery(pagesLaterQuery(site, pageWords(words), 8))
    return offersFor(words, pages, { vocabulary: known, usual, menu })[0]?.choice
  }
  const enter = (offer: Offer | undefined) => {
    // A page found for fewer letters must not be taken, and whoever types on must not be kept: the search goes on
    // without the chooser.
    if (settled || (offer && isSure(offer, words, at))) choose(offer)
    else onChooseLater(words.trim(), lookUp())
  }
  return (
    <Popover.Root open onOpenChange={(open) => !open && onClose()}>
      <Popover.Anchor asChild>
        <span
          className="pointer-events-none fixed"
          style={{ left: anchor.left, top: anchor.top, width: 1, height: anchor.height }}
        />
      </Popover.Anchor>
      <Popup
        label="Choose the target"
        align="start"
        className="w-[500px]"
        onOpenAutoFocus={(event) => {
          event.preventDefault()
          input.current?.focus()
          input.current?.select()
        }}
        onCloseAutoFocus={(event) => event.preventDefault()}
      >
        <Combobox
          label="Leads to"
          listLabel="Targets"
          input={input}
          words={words}
          onWords={onWords}
          options={offers}
          keyOf={(offer) => offer.key}
          at={at}
          onAt={setAt}
          onEnter={enter}
          onTake={choose}
          onKeyDown={(event) => {
            if (event.key !== 'Tab') return
            event.preventDefault()
            onClose()
          }}
          placeholder="a page's title or address, https://…, mail, phone"
          className="mono px-3 py-2 text-body"
          listClassName="max-h-[300px] p-1"
          after={
            <>
              {found.isError && <Trouble query={found} />}
              {offers.length === 0 && settled && (
                <p className="px-2 py-1 text-ink-2">Nothing on this site answers to that.</p>
              )}
            </>
          }
        >
          {(offer) => (
            <>
              <span className={`truncate ${offer.page ? 'font-semibold' : ''}`}>{offer.says}</span>
              {offer.page && <code className="truncate text-ink-2">{offer.page.path}</code>}
              <span className="ml-auto flex items-baseline gap-2 text-note text-ink-2">
                {offer.doubtful ? <Mark kind="stop">{offer.note}</Mark> : offer.note}
                {offer.choice.kind === 'listing' && offer.choice.list.rest && (
                  <Now site={site} menu={menu} hash={hash} language={language} list={offer.choice.list} />
                )}
                {offer.page && offer.page.state !== 'published' && (
                  <Mark kind="stop">{offer.page.state}</Mark>
                )}
              </span>
            </>
          )}
        </Combobox>
        <p className="mono border-t border-hair px-3 py-1 text-note text-ink-2">{SIGNS.join('  ')}</p>
      </Popup>
    </Popover.Root>
  )
}

interface NowProps {
  site: string
  menu: string
  hash: string
  language: string
  list: ListQuery
}

/** How many pages the list would have now, as the strip shows it. */
function Now({ site, menu, hash, language, list }: NowProps) {
  const now = useQuery(listingQuery(site, menu, hash, list, language)).data
  return now ? `${now.count} now` : null
}
