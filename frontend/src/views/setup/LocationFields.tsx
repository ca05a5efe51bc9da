import type { Schemas } from '../../api/client'
import { DEVICES } from '../../lens/lens'
import { Button } from '../../parts/Button'
import { Choice } from '../../parts/Choice'
import { ColourField } from '../../parts/ColourField'
import { Field } from '../../parts/Field'
import { Input } from '../../parts/Input'
import { LookFields } from '../../parts/LookFields'
import { Tick } from '../../parts/Tick'
import { type Fold, KINDS, type Location, REGIONS, SHAPES } from './template'

interface Props {
  location: Location
  others: readonly Location[]
  /** The look that a place has where its template says nothing. */
  plain: Look
  fonts: readonly string[]
  onChange: (location: Location) => void
}

type Look = Schemas['PlaceLook']

/** Everything that a template says of one place. */
export function LocationFields({ location, others, plain, fonts, onChange }: Props) {
  const set = (change: Partial<Location>) => onChange({ ...location, ...change })
  const stands = location.stands ?? { region: 'head' }
  const text = (key: 'key' | 'title', says: string) => (
    <Field says={says}>
      {(id) => (
        <Input
          id={id}
          value={location[key]}
          onChange={(event) => set({ [key]: event.target.value })}
          className="w-[170px]"
        />
      )}
    </Field>
  )
  const number = (says: string, value: number | null | undefined, change: (value: number | null) => void) => (
    <Field says={says}>
      {(id) => (
        <Input
          id={id}
          type="number"
          value={value ?? ''}
          onChange={(event) => change(event.target.value === '' ? null : Number(event.target.value))}
          className="w-[72px] text-right"
        />
      )}
    </Field>
  )
  const place = (says: string, value: string | null | undefined, change: (value: string | null) => void) => (
    <Field says={says}>
      {(id) => (
        <Choice
          id={id}
          value={value ?? ''}
          onChoose={(value) => change(value || null)}
          className="max-w-[170px]"
        >
          <option value="">none</option>
          {others.map((one) => (
            <option key={one.key} value={one.key}>
              {one.title}
            </option>
          ))}
        </Choice>
      )}
    </Field>
  )
  const several = <T extends string>(
    says: string,
    all: readonly T[],
    chosen: readonly T[],
    change: (value: T[]) => void,
  ) => (
    <fieldset className="border-t border-hair py-1">
      <legend className="float-left mr-3 text-ink-2">{says}</legend>
      <span className="flex flex-wrap justify-end gap-x-3">
        {all.map((one) => (
          <Tick
            key={one}
            checked={chosen.includes(one)}
            onTick={() =>
              change(all.filter((other) => (other === one ? !chosen.includes(one) : chosen.includes(other))))
            }
          >
            {one}
          </Tick>
        ))}
      </span>
    </fieldset>
  )
  const scrolled = location.fixed?.scrolled
  const look = { ...plain, ...location.look }
  const setFold = (at: number, change: Partial<Fold>) =>
    set({
      fold: (location.fold ?? []).map((one, index) => (index === at ? { ...one, ...change } : one)),
    })
  return (
    <div className="text-small">
      {text('title', 'title')}
      {text('key', 'key')}
      <Field says="shape">
        {(id) => (
          <Choice
            id={id}
            value={location.shape}
            onChoose={(value) => set({ shape: value as Location['shape'] })}
          >
            {SHAPES.map((one) => (
              <option key={one}>{one}</option>
            ))}
          </Choice>
        )}
      </Field>
      {number('levels at most', location.depth ?? 3, (depth) => set({ depth: depth ?? 1 }))}
      {several('devices', DEVICES, location.devices ?? DEVICES, (devices) => set({ devices }))}
      {several('takes', KINDS, (location.kinds ?? KINDS) as (typeof KINDS)[number][], (kinds) =>
        set({ kinds }),
      )}
      {place('where nothing hangs, takes from', location.stand_in, (stand_in) => set({ stand_in }))}
      <Field says="in the page's HTML from the start">
        {(id) => (
          <input
            id={id}
            type="checkbox"
            checked={location.readable ?? true}
            onChange={(event) => set({ readable: event.target.checked })}
          />
        )}
      </Field>
      <Field says="stands">
        {(id) => (
          <Choice
            id={id}
            value={location.stands ? stands.region : ''}
            onChoose={(value) => set({ stands: value ? { ...stands, region: value } : null })}
          >
            <option value="">as its shape does</option>
            {REGIONS.map(([value, says]) => (
              <option key={value} value={value}>
                {says}
              </option>
            ))}
          </Choice>
        )}
      </Field>
      {location.stands && (
        <>
          {number('row', stands.row ?? 1, (row) => set({ stands: { ...stands, row: row ?? 1 } }))}
          {number('height, px', stands.height ?? 48, (height) =>
            set({ stands: { ...stands, height: height ?? 48 } }),
          )}
          {number('width, px', stands.width, (width) => set({ stands: { ...stands, width } }))}
        </>
      )}
      <Field says="stays when the page scrolls">
        {(id) => (
          <input
            id={id}
            type="checkbox"
            checked={Boolean(location.fixed)}
            onChange={(event) => set({ fixed: event.target.checked ? {} : null })}
          />
        )}
      </Field>
      {location.fixed && (
        <>
          {number('height once scrolled, px', scrolled?.height, (height) =>
            set({ fixed: { ...location.fixed, scrolled: { ...scrolled, height } } }),
          )}
          {(['text', 'ground'] as const).map((key) => (
            <ColourField
              key={key}
              says={key === 'text' ? 'words once scrolled' : 'ground once scrolled'}
              value={scrolled?.[key]}
              otherwise={look[key]}
              back="as before"
              onChange={(value) =>
                set({ fixed: { ...location.fixed, scrolled: { ...scrolled, [key]: value } } })
              }
            />
          ))}
          {several(
            'then covers',
            others.map((one) => one.key),
            location.fixed.covers ?? [],
            (covers) => set({ fixed: { ...location.fixed, covers } }),
          )}
        </>
      )}
      {location.shape === 'section' && (
        <>
          {place('is a part of', location.of, (of) => set({ of }))}
          {number('from level', location.start ?? 1, (start) => set({ start: start ?? 1 }))}
          {number('levels shown', location.levels, (levels) => set({ levels }))}
          <Field says="on pages (under:about, …)">
            {(id) => (
              <Input
                id={id}
                value={(location.pages ?? []).join(', ')}
                onChange={(event) =>
                  set({ pages: event.target.value.split(/[\s,]+/).filter((one) => one !== '') })
                }
                className="w-[130px]"
              />
            )}
          </Field>
          <Field says="its title is the entry's">
            {(id) => (
              <input
                id={id}
                type="checkbox"
                checked={location.heading === true}
                onChange={(event) => set({ heading: event.target.checked ? true : null })}
              />
            )}
          </Field>
        </>
      )}
      <h3 className="mt-3 font-bold">Folds into other places</h3>
      {(location.fold ?? []).map((fold, at) => (
        <div key={at} className="border-l-2 border-wood pl-2">
          {place('into', fold.into, (into) => setFold(at, { into: into ?? others[0]?.key ?? '' }))}
          {several('on', DEVICES, fold.on ?? [], (on) => setFold(at, { on }))}
          {number('below, px', fold.below, (below) => setFold(at, { below }))}
          <Field says="stands">
            {(id) => (
              <Choice
                id={id}
                value={fold.where ?? 'after'}
                onChoose={(value) => setFold(at, { where: value as Fold['where'] })}
              >
                <option value="before">before what hangs there</option>
                <option value="after">after what hangs there</option>
              </Choice>
            )}
          </Field>
          {number('order among several', fold.order ?? 0, (order) => setFold(at, { order: order ?? 0 }))}
          <Field says="under the heading">
            {(id) => (
              <Input
                id={id}
                value={fold.heading ?? ''}
                onChange={(event) => setFold(at, { heading: event.target.value || null })}
                className="w-[130px]"
              />
            )}
          </Field>
          <Button
            small
            tone="quiet"
            onClick={() => set({ fold: (location.fold ?? []).filter((_, index) => index !== at) })}
          >
            take this away
          </Button>
        </div>
      ))}
      {others[0] && (
        <Button
          small
          className="mt-1"
          onClick={() =>
            set({ fold: [...(location.fold ?? []), { into: others[0]?.key ?? '', on: ['phone'] }] })
          }
        >
          Add one
        </Button>
      )}
      <details className="mt-3">
        <summary className="cursor-pointer font-bold">Its look, before a site changes it</summary>
        <LookFields
          look={look}
          fonts={fonts}
          onChange={(next) => set({ look: otherThanPlain(next, plain) })}
        />
      </details>
    </div>
  )
}

/** The keys of a look that say something else than the plain look does. */
function otherThanPlain(look: Look, plain: Look): Partial<Look> {
  const own = Object.entries(look).filter(
    ([key, value]) => JSON.stringify(value) !== JSON.stringify(plain[key as keyof Look]),
  )
  return Object.fromEntries(own)
}
