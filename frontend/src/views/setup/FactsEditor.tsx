import { useMutation, useQuery } from '@tanstack/react-query'
import { useRef } from 'react'
import { answered, client, newKey, type Schemas } from '../../api/client'
import { keys, useAnew } from '../../api/keys'
import { factsQuery } from '../../api/queries'
import { Button } from '../../parts/Button'
import { Input } from '../../parts/Input'
import { useLeaving } from '../../parts/Question'
import { Scrolled } from '../../parts/Scrolled'
import { Sheet } from '../../parts/Sheet'
import { StepButtons } from '../../parts/StepButtons'
import { Tick } from '../../parts/Tick'
import { Told } from '../../parts/Told'
import { useSettled } from '../../parts/useSettled'
import { useSteps } from '../../parts/useSteps'
import { AudienceLine } from './AudienceLine'
import { FactLine } from './FactLine'
import {
  bodyOf,
  choiceOf,
  type Draft,
  doubled,
  draftOf,
  freeName,
  type Known,
  withFact,
  withRow,
} from './known'
import { NamedRuleLine } from './NamedRuleLine'
import { RulesAlong } from './RulesAlong'

export type Scope =
  | { kind: 'site'; key: string; name: string }
  | { kind: 'set'; key: string | null; known: Known; hash?: string }

interface Props {
  scope: Scope
  editable: boolean
  onClose: () => void
}

const TRIES_MS = 400

interface Changes {
  draft: Draft | null
  /** The shared sets that the site follows. */
  sets: string[] | null
  /** Rules as they shall read, by what they read. */
  mends: Record<string, string>
}

const UNCHANGED: Changes = { draft: null, sets: null, mends: {} }

/** Facts, audiences and named rules of a site or of a shared set, with what becomes of every rule that uses them. */
export function FactsEditor({ scope, editable, onClose }: Props) {
  const anew = useAnew()
  const site = scope.kind === 'site' ? scope.key : ''
  const found = useQuery({ ...factsQuery(site), enabled: site !== '', staleTime: 0 }).data
  const begun = scope.kind === 'set' ? draftOf(scope.known) : found ? draftOf(found.own) : null
  const steps = useSteps<Changes>(UNCHANGED)
  const { draft: changed, sets, mends } = steps.value
  const change = (more: Partial<Changes>) => steps.set({ ...steps.value, ...more })
  const draft = changed ?? begun
  // What is kept sets out from what was there when the first thing was changed, not from what was read since.
  const begunFrom = useRef<string | undefined>(undefined)
  if (changed === null && sets === null) begunFrom.current = scope.kind === 'set' ? scope.hash : found?.hash
  const requestKey = useRef(newKey())
  const twice = draft && doubled(draft)
  const followed = sets ?? found?.sets ?? []
  const body = draft
    ? { ...bodyOf(draft), mends, ...(scope.kind === 'site' ? { sets: followed } : {}) }
    : null
  const settled = useSettled(JSON.stringify(body), TRIES_MS)
  const tried = useQuery({
    queryKey: keys.setup('facts tried', scope.kind, scope.key, settled),
    enabled: draft !== null && scope.key !== null && twice === null,
    retry: false,
    placeholderData: (before: Schemas['RuleUse'][] | undefined) => before,
    queryFn: () => {
      const asked = JSON.parse(settled)
      return scope.kind === 'site'
        ? answered(client.POST('/api/sites/{site}/facts/try', { params: { path: { site } }, body: asked }))
        : answered(
            client.POST('/api/fact-sets/{key}/try', {
              params: { path: { key: scope.key ?? '' } },
              body: asked,
            }),
          )
    },
  })
  const keep = useMutation({
    mutationFn: async () => {
      if (!body) return
      const header = { 'if-match': `"${begunFrom.current}"` }
      if (scope.kind === 'site')
        await answered(client.PUT('/api/sites/{site}/facts', { params: { path: { site }, header }, body }))
      else if (scope.key === null)
        await answered(
          client.POST('/api/fact-sets', {
            params: { header: { 'idempotency-key': requestKey.current } },
            body,
          }),
        )
      else
        await answered(
          client.PUT('/api/fact-sets/{key}', { params: { path: { key: scope.key }, header }, body }),
        )
    },
    onSuccess: async () => {
      // Which sites follow a shared set is told at each of them.
      await anew.setup()
      onClose()
    },
  })
  const leaving = useLeaving(steps.canUndo, 'facts, audiences and rules', onClose)
  if (!draft) return null
  const setDraft = (next: Draft) => change({ draft: next })
  const set = (more: Partial<Draft>) => setDraft({ ...draft, ...more })
  const known = [
    ...draft.facts.map(choiceOf),
    ...(found?.known ?? []).filter(
      (one) => one.name === 'signed_in' || (one.from_ === 'shared' && one.type !== 'rule'),
    ),
  ].filter((one, at, all) => all.findIndex((other) => other.name === one.name) === at)
  return (
    <Sheet
      title={
        scope.kind === 'site' ? `What is known of the visitors of ${scope.name}` : 'A shared set of facts'
      }
      onOpen={(open) => !open && leaving.leave()}
      className="h-[720px] w-[1180px] grid-cols-[minmax(0,1.1fr)_minmax(0,1fr)] grid-rows-[auto_1fr] gap-x-6 gap-y-3 p-5"
      onKeyDown={steps.onKeyDown}
      beside={
        <span className="ml-auto flex gap-2">
          {editable && <StepButtons steps={steps} />}
          {editable && (
            <Button small tone="go" disabled={keep.isPending || twice !== null} onClick={() => keep.mutate()}>
              Keep
            </Button>
          )}
          <Button small onClick={leaving.leave}>
            Close
          </Button>
        </span>
      }
    >
      <Scrolled label="Facts and audiences" className="border-r border-hair pr-5 text-body">
        <fieldset disabled={!editable}>
          <legend className="sr-only">Facts, audiences and rules</legend>
          {scope.kind === 'set' && (
            <label className="mb-2 flex items-baseline gap-2">
              called
              <Input value={draft.title} onChange={(event) => set({ title: event.target.value })} />
            </label>
          )}
          <h3 className="font-bold">Facts</h3>
          {draft.facts.map((fact, at) => (
            <FactLine key={at} fact={fact} onChange={(next) => setDraft(withFact(draft, at, next))} />
          ))}
          <Button
            small
            className="mt-1"
            onClick={() =>
              set({
                facts: [
                  ...draft.facts,
                  {
                    was: null,
                    name: freeName('fact_', draft.facts),
                    type: 'flag',
                    values: [],
                    min: null,
                    max: null,
                    whole: false,
                  },
                ],
              })
            }
          >
            Add a fact
          </Button>
          {scope.kind === 'site' && (found?.shared.length ?? 0) > 0 && (
            <p className="mt-3 flex flex-wrap gap-x-3">
              and those of
              {found?.shared.map((one) => (
                <Tick
                  key={one.key}
                  checked={followed.includes(one.key)}
                  onTick={(checked) =>
                    change({
                      sets: checked ? [...followed, one.key] : followed.filter((key) => key !== one.key),
                    })
                  }
                >
                  {one.known.title}
                </Tick>
              ))}
            </p>
          )}
          <h3 className="mt-4 font-bold">Audiences</h3>
          {draft.audiences.map((audience, at) => (
            <AudienceLine
              key={at}
              audience={audience}
              known={known}
              onChange={(next) => set({ audiences: withRow(draft.audiences, at, next) })}
            />
          ))}
          <Button
            small
            className="mt-1"
            onClick={() =>
              set({
                audiences: [...draft.audiences, { name: freeName('audience ', draft.audiences), facts: {} }],
              })
            }
          >
            Add an audience
          </Button>
          <h3 className="mt-4 font-bold">Rules that have a name</h3>
          {draft.rules.map((rule, at) => (
            <NamedRuleLine
              key={at}
              rule={rule}
              used={usesOf(rule.was ?? rule.name, tried.data ?? found?.uses ?? [])}
              onChange={(next) => set({ rules: withRow(draft.rules, at, next) })}
            />
          ))}
          <Button
            small
            className="mt-1"
            onClick={() =>
              set({
                rules: [
                  ...draft.rules,
                  { was: null, name: freeName('rule_', draft.rules), text: 'signed_in' },
                ],
              })
            }
          >
            Add a rule
          </Button>
        </fieldset>
      </Scrolled>
      <Scrolled label="What becomes of the rules" className="text-body">
        <Told error={keep.error ?? tried.error} />
        {twice !== null && (
          <p role="alert" className="border-l-4 border-signal bg-signal-ground px-3 py-2">
            Two are called {twice}. Give one of them another name.
          </p>
        )}
        <RulesAlong
          uses={tried.data ?? []}
          editable={editable}
          mends={mends}
          onMend={(before, after) => change({ mends: { ...mends, [before]: after } })}
        />
      </Scrolled>
      {leaving.question}
    </Sheet>
  )
}

/** The labels of the entries whose rule names this one. */
function usesOf(name: string, uses: readonly Schemas['RuleUse'][]): string[] {
  const named = new RegExp(`(^|[\\s(])${name.replace(/[.\\-]/g, '\\$&')}($|[\\s)])`)
  return uses.filter((use) => named.test(use.before)).flatMap((use) => use.places.map((place) => place.label))
}
