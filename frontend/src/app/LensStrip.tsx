import { useQuery } from '@tanstack/react-query'
import { useNavigate, useParams } from '@tanstack/react-router'
import { lazy, Suspense, useCallback, useState } from 'react'
import { allAudiencesQuery, factsQuery, siteQuery } from '../api/queries'
import { DEVICES, type Lens, languageName, spoken } from '../lens/lens'
import { useLens } from '../lens/useLens'
import { Menu, MenuAct, MenuChoices } from '../parts/Menu'
import { reading } from '../parts/readings'
import { AllKeys } from './AllKeys'
import { InChange } from './InChange'
import { WhereTo } from './WhereTo'

const Moment = lazy(() => import('./Moment').then((one) => ({ default: one.Moment })))
const FactsByHand = lazy(() => import('./FactsByHand').then((one) => ({ default: one.FactsByHand })))

const ANYBODY = ''

/** The lens is a sentence; its underlined words can be chosen. */
export function LensStrip() {
  const lens = useLens()
  const navigate = useNavigate()
  const { site } = useParams({ strict: false }) as { site?: string }
  const [byHand, setByHand] = useState(false)
  const languages = useQuery({ ...siteQuery(site ?? ''), enabled: site !== undefined }).data?.languages ?? []
  const known = useQuery({ ...factsQuery(site ?? ''), enabled: site !== undefined }).data
  const everywhere = useQuery({ ...allAudiencesQuery, enabled: site === undefined }).data
  const audiences = site ? Object.keys(known?.audiences ?? {}) : (everywhere ?? [])
  const look = useCallback(
    (change: Partial<Lens>) => navigate({ to: '.', search: (before: object) => ({ ...before, ...change }) }),
    [navigate],
  )
  const onMoment = useCallback((at: string | undefined) => void look({ at }), [look])
  const language = spoken(languages, lens)[0]
  const facts = Object.keys(lens.facts ?? {}).length
  const who = lens.audience ?? ANYBODY
  const listed = audiences.includes(who) || who === ANYBODY ? audiences : [...audiences, who]
  return (
    <header className="flex items-center gap-[7px] border-b border-hair bg-paper px-[18px] whitespace-nowrap max-lg:flex-wrap max-lg:py-1 text-ink-2">
      As
      <Word
        name="Audience"
        value={who}
        options={[
          { value: ANYBODY, says: 'anybody' },
          ...listed.map((one) => ({
            value: one,
            says: one,
            note: site && known && !audiences.includes(one) ? 'not known here' : undefined,
          })),
        ]}
        onChoose={(chosen) => look({ audience: chosen || undefined })}
      >
        {site && <MenuAct onAct={() => setByHand(true)}>facts by hand …</MenuAct>}
      </Word>
      {facts > 0 && (
        <button type="button" className="chosen px-px" onClick={() => setByHand(true)}>
          with {facts} {facts === 1 ? 'fact' : 'facts'} by hand
        </button>
      )}
      on a
      <Word
        name="Device"
        value={lens.device}
        options={DEVICES.map((one) => ({ value: one, says: one }))}
        onChoose={(device) => look({ device: DEVICES.find((one) => one === device) })}
      />
      {language && languages.length > 1 && (
        <>
          in
          <Word
            name="Language"
            value={language}
            options={languages.map((one) => ({ value: one, says: languageName(one) }))}
            onChoose={(chosen) => look({ language: chosen })}
          />
        </>
      )}
      {lens.page && (
        <>
          on
          <button
            type="button"
            className="chosen mono max-w-[150px] truncate px-px"
            title="on no page again"
            onClick={() => look({ page: undefined })}
          >
            @{lens.page} ×
          </button>
        </>
      )}
      {site && <InChange site={site} />}
      {site ? (
        <Suspense>
          <Moment site={site} lens={lens} onMoment={onMoment} />
        </Suspense>
      ) : (
        <span>
          {lens.at ? 'at' : ''}{' '}
          {lens.at ? (
            <button type="button" className="chosen px-px" onClick={() => look({ at: undefined })}>
              {reading(lens.at)}, back to now
            </button>
          ) : (
            'now'
          )}
        </span>
      )}
      <span className={site ? '' : 'ml-auto'}>
        <AllKeys />
        <WhereTo />
      </span>
      {byHand && known && (
        <Suspense>
          <FactsByHand
            known={known}
            lens={lens}
            onFacts={(facts) => look({ facts })}
            onClose={() => setByHand(false)}
          />
        </Suspense>
      )}
    </header>
  )
}

interface WordProps {
  name: string
  value: string
  options: readonly { value: string; says: string; note?: string }[]
  onChoose: (value: string) => void
  children?: React.ReactNode
}

function Word({ name, value, options, onChoose, children }: WordProps) {
  const says = options.find((one) => one.value === value)?.says ?? value
  return (
    <Menu
      align="start"
      button={
        <button type="button" className="chosen px-px" aria-label={`${name}: ${says}`}>
          {says}
        </button>
      }
    >
      <MenuChoices value={value} options={options} onChoose={onChoose} />
      {children}
    </Menu>
  )
}
