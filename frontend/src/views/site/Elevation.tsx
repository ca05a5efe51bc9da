import { useQuery } from '@tanstack/react-query'
import { useNavigate } from '@tanstack/react-router'
import { useState } from 'react'
import type { Schemas } from '../../api/client'
import { elevationQuery, pagesQuery } from '../../api/queries'
import { useLens } from '../../lens/useLens'
import { Choice } from '../../parts/Choice'
import { DrawnFrame } from '../../parts/DrawnFrame'
import { Tick } from '../../parts/Tick'
import { Trouble } from '../../parts/Trouble'
import { Words } from '../../parts/Words'

/** The site's page to scale through the lens; a click on a place opens its menu. */
export function Elevation({ site }: { site: Schemas['SitePage'] }) {
  const lens = useLens()
  const navigate = useNavigate()
  const [scrolled, setScrolled] = useState(false)
  const [drawer, setDrawer] = useState(false)
  const { device, language, page } = lens
  const drawn = useQuery(elevationQuery(site.key, lens, { scrolled, drawer }))
  const pages = useQuery(pagesQuery(site.key, '', 500)).data ?? []
  const open = (location: string, item: string | null) => {
    const menu = drawn.data?.standing.find((one) => one.location === location)?.menu
    if (menu)
      navigate({
        to: '/sites/$site/menus/$menu',
        params: { site: site.key, menu },
        search: lens,
        hash: item ?? '',
      })
  }
  const covered = drawn.data?.standing.filter((one) => one.covered_by) ?? []
  return (
    <section aria-label="Elevation" className="flex min-h-0 flex-col">
      <div className="mb-1.5 flex flex-wrap items-baseline gap-x-3 text-small text-ink-2">
        <h2 className="text-ink">Elevation</h2>
        <Words
          name="How far the page is scrolled"
          value={scrolled ? 'scrolled' : 'top'}
          options={['top', 'scrolled']}
          onChoose={(one) => setScrolled(one === 'scrolled')}
          className="gap-x-3"
        />
        <Tick checked={drawer} onTick={(checked) => setDrawer(checked)}>
          drawer open
        </Tick>
        <label className="ml-auto flex min-w-0 items-baseline gap-1">
          on
          <Choice
            aria-label="Page that the visitor is on"
            value={page ?? ''}
            onChoose={(value) => navigate({ to: '.', search: { ...lens, page: value || undefined } })}
            className="w-[150px]"
          >
            <option value="">no page</option>
            {pages.map((one) => (
              <option key={one.ref} value={one.ref}>
                {Object.values(one.title)[0] ?? one.path}
              </option>
            ))}
          </Choice>
        </label>
      </div>
      <Trouble query={drawn} />
      <DrawnFrame
        className={`min-h-0 flex-1 ${device === 'phone' ? 'mx-auto w-[390px] max-w-full' : 'w-full'}`}
        html={drawn.data?.html ?? ''}
        label={`The page of ${site.name} on a ${device}`}
        language={language ?? site.languages[0] ?? 'en'}
        width={drawn.data?.width ?? 1280}
        onPlace={open}
      />
      <p className="mt-1 text-note text-ink-2">
        {drawn.data && `${drawn.data.width} px wide, drawn to scale. `}
        {covered.map((one) => `${one.title} is covered by ${one.covered_by}. `)}
        Also open by key:{' '}
        {drawn.data?.standing
          .filter((one) => one.menu)
          .map((one) => (
            <button
              key={one.location}
              type="button"
              onClick={() => open(one.location, null)}
              className="mr-2 underline decoration-dashed underline-offset-4 hover:text-ink"
            >
              {one.title}
            </button>
          ))}
      </p>
    </section>
  )
}
