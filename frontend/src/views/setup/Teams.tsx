import { useMutation, useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { useChosen } from '../../api/chosen'
import { answered, client, type Schemas } from '../../api/client'
import { useAnew } from '../../api/keys'
import { peopleQuery, sitesQuery, teamsQuery } from '../../api/queries'
import { Asked } from '../../parts/Asked'
import { Button } from '../../parts/Button'
import { Choice } from '../../parts/Choice'
import { Input } from '../../parts/Input'
import { Told } from '../../parts/Told'
import { Trouble } from '../../parts/Trouble'
import { ROLES } from './Roles'

type Team = Schemas['TeamOut']

const NOT_IN_IT = 'not in it'

/** Who looks after which sites together. */
export function Teams({ me }: { me: string }) {
  const anew = useAnew()
  const teams = useQuery(teamsQuery)
  const [open, setOpen] = useState<string | null>(null)
  const [name, setName] = useState('')
  const begin = useMutation({
    mutationFn: () => answered(client.POST('/api/teams', { body: { name } })),
    onSuccess: async (made) => {
      setName('')
      await anew.people()
      setOpen(made.id)
    },
  })
  return (
    <section aria-labelledby="teams" className="mt-6">
      <h2 id="teams">Teams</h2>
      <Trouble query={teams} />
      <ul>
        {teams.data?.map((one) => (
          <li key={one.id} className="border-t border-hair py-1">
            <div className="flex items-baseline justify-between gap-2">
              <span>
                <b>{one.name}</b>{' '}
                <span className="text-note text-ink-2">
                  {one.sites.length} {one.sites.length === 1 ? 'site' : 'sites'},{' '}
                  {Object.keys(one.members).length}{' '}
                  {Object.keys(one.members).length === 1 ? 'person' : 'people'}
                </span>
              </span>
              <Button
                small
                aria-expanded={open === one.id}
                aria-label={`The team ${one.name}`}
                onClick={() => setOpen(open === one.id ? null : one.id)}
              >
                Who and where
              </Button>
            </div>
            {open === one.id && <OneTeam team={one} me={me} />}
          </li>
        ))}
      </ul>
      <form
        className="mt-2 flex items-end gap-2"
        onSubmit={(event) => {
          event.preventDefault()
          if (name.trim()) begin.mutate()
        }}
      >
        <Asked says="Begin a team called">
          {(id) => <Input id={id} value={name} onChange={(event) => setName(event.target.value)} />}
        </Asked>
        <Button small type="submit" disabled={!name.trim() || begin.isPending}>
          Begin
        </Button>
      </form>
      <Told error={begin.error} />
    </section>
  )
}

/** Each choice is kept at once. */
function OneTeam({ team: kept, me }: { team: Team; me: string }) {
  const anew = useAnew()
  const people = useQuery(peopleQuery).data ?? []
  const sites = useQuery(sitesQuery).data ?? []
  const keep = useChosen(
    (to: Partial<Team>) => {
      const { name, sites, members } = { ...kept, ...to }
      return answered(
        client.PUT('/api/teams/{team}', {
          params: { path: { team: kept.id } },
          body: { name, sites, members },
        }),
      )
    },
    () => anew.people(),
  )
  const team = { ...kept, ...keep.value }
  const end = useMutation({
    mutationFn: () => answered(client.DELETE('/api/teams/{team}', { params: { path: { team: kept.id } } })),
    onSettled: () => anew.people(),
  })
  const role = (person: string, given: string) => {
    const { [person]: _, ...others } = team.members
    keep.choose({ members: given === NOT_IN_IT ? others : { ...others, [person]: given } })
  }
  const busy = keep.isPending || end.isPending
  return (
    <div className="my-2 grid gap-2 border-l-4 border-wood bg-plate px-3 py-2 text-small">
      <fieldset className="grid grid-cols-2 gap-x-4 max-sm:grid-cols-1">
        <legend className="text-ink-2">looks after</legend>
        {sites.map((site) => (
          <label key={site.key} className="flex items-baseline gap-1.5">
            <input
              type="checkbox"
              disabled={busy}
              checked={team.sites.includes(site.key)}
              onChange={(event) =>
                keep.choose({
                  sites: event.target.checked
                    ? [...team.sites, site.key]
                    : team.sites.filter((one) => one !== site.key),
                })
              }
            />
            {site.name}
          </label>
        ))}
      </fieldset>
      {people.map((one) => (
        <Asked key={one.id} says={one.name}>
          {(id) => (
            <Choice
              id={id}
              disabled={busy || one.email === me}
              value={team.members[one.id] ?? NOT_IN_IT}
              options={[NOT_IN_IT, ...ROLES]}
              onChoose={(given) => role(one.id, given)}
              className="w-full"
            />
          )}
        </Asked>
      ))}
      <Told error={keep.error ?? end.error} />
      <span>
        <Button small tone="quiet" disabled={busy} onClick={() => end.mutate()}>
          end the team
        </Button>
      </span>
    </div>
  )
}
