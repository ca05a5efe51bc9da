import { useMutation, useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { answered, client, type Schemas } from '../../api/client'
import { useAnew } from '../../api/keys'
import { settingsQuery } from '../../api/queries'
import { type Kind, says } from '../../app/ways'
import { languageName } from '../../lens/lens'
import { Button } from '../../parts/Button'
import { Choice } from '../../parts/Choice'
import { Field } from '../../parts/Field'
import { Input } from '../../parts/Input'
import { Question, useLeaving } from '../../parts/Question'
import { Scrolled } from '../../parts/Scrolled'
import { Sheet } from '../../parts/Sheet'
import { StepButtons } from '../../parts/StepButtons'
import { Told } from '../../parts/Told'
import { Trouble } from '../../parts/Trouble'
import { useSteps } from '../../parts/useSteps'
import { ForShared } from './ForShared'
import { Required } from './Required'
import { Hosts, Languages, PlacesMatched, SeenAt } from './SettingLists'

type Wanted = Schemas['SettingsBody']
type Settled = Schemas['SettingsOut']

const ZONES = Intl.supportedValuesOf('timeZone')
interface Props {
  site: Schemas['SitePage']
  editable: boolean
  onClose: () => void
}

/** What a site is: its name and addresses, its clock, languages and policy, how it is reached, and who works on it. */
export function Settings({ site, editable, onClose }: Props) {
  const found = useQuery(settingsQuery(site.key))
  const anew = useAnew()
  const steps = useSteps<Wanted>({})
  const set = (more: Wanted) => steps.set({ ...steps.value, ...more })
  const [away, setAway] = useState(false)
  const keep = useMutation({
    mutationFn: (mark: string) =>
      answered(
        client.PUT('/api/sites/{site}/settings', {
          params: { path: { site: site.key }, header: { 'if-match': `"${mark}"` } },
          body: steps.value,
        }),
      ),
    onSuccess: async () => {
      await anew.site(site.key)
      onClose()
    },
  })
  const archive = useMutation({
    mutationFn: (archived: boolean) =>
      answered(
        client.PUT('/api/sites/{site}/archived', {
          params: { path: { site: site.key } },
          body: { archived },
        }),
      ),
    onSuccess: () => anew.sites(),
    onSettled: () => setAway(false),
  })
  const leaving = useLeaving(steps.canUndo, 'the settings', onClose)
  const settled = found.data
  return (
    <Sheet
      title={`Settings of ${site.name}`}
      onOpen={(open) => !open && leaving.leave()}
      onKeyDown={steps.onKeyDown}
      className="h-[640px] w-[900px] grid-cols-[minmax(0,1.3fr)_minmax(0,1fr)] grid-rows-[auto_minmax(0,1fr)] gap-x-8 gap-y-3 p-5 max-sm:grid-cols-[minmax(0,1fr)]"
      beside={
        <span className="ml-auto flex items-baseline gap-2">
          {editable && (
            <>
              <StepButtons steps={steps} />
              <Button
                small
                tone="go"
                disabled={!settled || !steps.canUndo || keep.isPending}
                onClick={() => settled && keep.mutate(settled.hash)}
              >
                Keep
              </Button>
            </>
          )}
          <Button small onClick={leaving.leave}>
            Close
          </Button>
        </span>
      }
    >
      <Scrolled label="What the site is" className="pr-2">
        <Trouble query={found} />
        <Told error={keep.error} />
        {settled && (
          <fieldset disabled={!editable}>
            <legend className="sr-only">What the site is</legend>
            <Fields site={site} now={{ ...settled, ...steps.value } as Settled & Wanted} set={set} />
            <PlacesMatched
              site={site}
              called={steps.value.places ?? settled.places}
              onChange={(places) => set({ places })}
            />
            <SeenAt
              site={site}
              seenAt={steps.value.seen_at ?? settled.seen_at}
              onChange={(seen_at) => set({ seen_at })}
            />
          </fieldset>
        )}
      </Scrolled>
      <Scrolled label="How it is reached, and by whom" className="text-body">
        {settled && (
          <>
            <h3 className="font-bold">How it is reached</h3>
            <p className="mb-3 text-ink-2">
              {says(settled.connection as Kind)}
              {settled.endpoint && (
                <>
                  {' at '}
                  <code className="break-all">{settled.endpoint}</code>
                </>
              )}
            </p>
            <h3 className="font-bold">Who works on it</h3>
            <ul className="mb-3">
              {settled.people.map((one) => (
                <li
                  key={`${one.name} ${one.role}`}
                  className="flex justify-between border-t border-hair py-0.5"
                >
                  {one.name} <span className="text-ink-2">{one.role}</span>
                </li>
              ))}
            </ul>
            <p className="mb-4 text-small text-ink-2">Roles are given in Setup, to each person.</p>
            {editable && (
              <Button small onClick={() => (site.archived_at ? archive.mutate(false) : setAway(true))}>
                {site.archived_at ? 'Take the site out again' : 'Put the site away'}
              </Button>
            )}
            <Told error={archive.error} />
          </>
        )}
      </Scrolled>
      {away && (
        <Question
          title={`Put ${site.name} away?`}
          go="Put it away"
          stay="Leave it"
          onGo={() => archive.mutate(true)}
          onStay={() => setAway(false)}
        >
          It leaves the shelf and is not edited any more. Visitors go on getting what is live, nothing is
          lost, and it can be taken out again at any time: the shelf tells what is put away.
        </Question>
      )}
      {leaving.question}
    </Sheet>
  )
}

interface FieldsProps {
  site: Schemas['SitePage']
  now: Settled & Wanted
  set: (more: Wanted) => void
}

function Fields({ site, now, set }: FieldsProps) {
  const menus = site.menus.filter((menu) => !menu.archived)
  return (
    <>
      <Field says="called">
        {(id) => (
          <Input
            id={id}
            className="w-[300px]"
            value={now.name ?? ''}
            onChange={(event) => set({ name: event.target.value })}
          />
        )}
      </Field>
      <Field says="home page">
        {(id) => (
          <Input
            id={id}
            className="mono w-[300px]"
            inputMode="url"
            value={now.base ?? ''}
            onChange={(event) => set({ base: event.target.value })}
          />
        )}
      </Field>
      <Field says="a site of">
        {(id) => (
          <Input
            id={id}
            className="w-[300px]"
            placeholder="the client, where it has several"
            value={now.client ?? ''}
            onChange={(event) => set({ client: event.target.value })}
          />
        )}
      </Field>
      <Field says="clock">
        {(id) => (
          <Choice
            id={id}
            className="max-w-[300px]"
            value={now.zone ?? ''}
            onChoose={(zone) => set({ zone })}
            options={[...new Set([now.zone ?? 'UTC', ...ZONES])]}
          />
        )}
      </Field>
      <Field says="links to other sites">
        {(id) => (
          <Choice
            id={id}
            value={now.outside_links ?? 'as they are'}
            onChoose={(outside_links) => set({ outside_links: outside_links as Wanted['outside_links'] })}
            options={[
              ['as they are', 'as each is set'],
              ['new_tab', 'open a new tab'],
              ['same_tab', 'stay in the tab'],
            ]}
          />
        )}
      </Field>
      <Field says="what nobody approved">
        {(id) => (
          <Choice
            id={id}
            value={now.review_first ? 'first' : ''}
            onChoose={(value) => set({ review_first: value === 'first' })}
            options={[
              ['', 'may go live as well'],
              ['first', 'does not go live'],
            ]}
          />
        )}
      </Field>
      <Field says="a moment that is moved">
        {(id) => (
          <Choice
            id={id}
            value={now.moment_too ? 'too' : ''}
            onChoose={(value) => set({ moment_too: value === 'too' })}
            options={[
              ['', 'stays approved'],
              ['too', 'is approved again'],
            ]}
          />
        )}
      </Field>
      <Field says="approvals that a change needs">
        {(id) => (
          <Input
            id={id}
            type="number"
            min={0}
            max={10}
            className="w-[64px] text-right"
            value={now.approvals ?? 0}
            onChange={(event) => set({ approvals: Number(event.target.value) })}
          />
        )}
      </Field>
      <Field says="a finding keeps a change from going live">
        {(id) => (
          <Choice
            id={id}
            value={now.stops ?? 'stop'}
            onChoose={(stops) => set({ stops: stops as Wanted['stops'] })}
            options={[
              ['stop', 'where it says stop'],
              ['warn', 'where it warns, too'],
              ['nothing', 'never'],
            ]}
          />
        )}
      </Field>
      <Amount
        says="characters of a label, at most"
        none="as each place takes"
        most={200}
        value={now.label_length ?? 0}
        onChange={(label_length) => set({ label_length })}
      />
      <Amount
        says="choices from home to a page, at most"
        none="four"
        most={20}
        value={now.steps ?? 0}
        onChange={(steps) => set({ steps })}
      />
      <Field says="its pages are read again">
        {(id) => (
          <Choice
            id={id}
            value={now.read_every ?? 'day'}
            onChoose={(read_every) => set({ read_every: read_every as Wanted['read_every'] })}
            options={[
              ['hour', 'every hour'],
              ['day', 'every day'],
              ['week', 'every week'],
              ['never', 'only when asked'],
            ]}
          />
        )}
      </Field>
      <Field says="new pages of its top level are put">
        {(id) => (
          <Choice
            id={id}
            value={now.new_into ?? ''}
            onChoose={(new_into) => set({ new_into })}
            options={[
              ['', 'nowhere by themselves'],
              ...menus.map((menu) => [menu.key, `into a draft of ${menu.name}`] as const),
            ]}
          />
        )}
      </Field>
      <Languages
        languages={now.languages ?? []}
        called={languageName}
        onChange={(languages) => set({ languages })}
      />
      <Hosts hosts={now.hosts ?? []} onChange={(hosts) => set({ hosts })} />
      <Required site={site} required={now.required ?? {}} onChange={(required) => set({ required })} />
      <ForShared
        site={site.key}
        details={now.details ?? {}}
        onDetails={(details) => set({ details })}
        roles={now.roles ?? {}}
        onRoles={(roles) => set({ roles })}
      />
    </>
  )
}

interface AmountProps {
  says: string
  /** What holds where there is none. */
  none: string
  most: number
  value: number
  onChange: (value: number) => void
}

function Amount({ says, none, most, value, onChange }: AmountProps) {
  return (
    <Field says={says}>
      {(id) => (
        <Input
          id={id}
          inputMode="numeric"
          placeholder={none}
          className="w-[150px] text-right"
          value={value || ''}
          onChange={(event) => onChange(Math.min(Number(event.target.value.replace(/\D/g, '')), most))}
        />
      )}
    </Field>
  )
}
