import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { answered, client, type Schemas } from '../../api/client'
import { useAnew } from '../../api/keys'
import { Button } from '../../parts/Button'
import { Choice } from '../../parts/Choice'
import { Input } from '../../parts/Input'
import { Mark, type MarkKind } from '../../parts/Mark'
import { Once } from '../../parts/Once'
import { Told } from '../../parts/Told'
import { when } from '../../parts/times'

type Change = Schemas['OneChangeOut']
type Said = Schemas['ClientSaidOut']

const SAYS: Record<Said['verdict'], { says: string; mark: MarkKind }> = {
  yes: { says: 'says yes', mark: 'ok' },
  no: { says: 'says no', mark: 'stop' },
  remark: { says: 'remarks', mark: 'waiting' },
}

/** Links by which a client looks at the change without an account, and what was said by them. */
export function SignOffs({ told }: { told: Change }) {
  const anew = useAnew()
  const { change } = told
  const editable = told.can.includes('edit') || told.can.includes('withdraw')
  const [making, setMaking] = useState(false)
  const [whom, setWhom] = useState('')
  const [site, setSite] = useState('')
  const make = useMutation({
    mutationFn: () =>
      answered(
        client.POST('/api/changes/{change}/sign-offs', {
          params: { path: { change: change.id } },
          body: { for_whom: whom, sites: site ? [site] : [], days: 14 },
        }),
      ),
    onSuccess: () => {
      setMaking(false)
      setWhom('')
    },
    onSettled: () => anew.sites(),
  })
  const withdraw = useMutation({
    mutationFn: (link: string) =>
      answered(
        client.DELETE('/api/changes/{change}/sign-offs/{link}', {
          params: { path: { change: change.id, link } },
        }),
      ),
    onSettled: () => anew.sites(),
  })
  if (told.sign_offs.length === 0 && !editable) return null
  return (
    <section aria-label="The client's word" className="mb-3 border-l-4 border-moss bg-plate px-3 py-2">
      <ul className="text-small">
        {told.sign_offs.map((one) => (
          <li key={one.id} className="mb-1">
            <span className="flex flex-wrap items-baseline gap-x-2">
              <b>{one.for_whom}</b>
              <span className="text-ink-2">
                {one.withdrawn_at
                  ? `link withdrawn ${when(one.withdrawn_at)}`
                  : `link of ${when(one.made_at)}, until ${when(one.until)}`}
              </span>
              {!one.withdrawn_at && editable && (
                <Button
                  small
                  tone="quiet"
                  aria-label={`Withdraw the link for ${one.for_whom}`}
                  disabled={withdraw.isPending}
                  onClick={() => withdraw.mutate(one.id)}
                >
                  withdraw it
                </Button>
              )}
            </span>
            {one.said.map((word) => (
              <span key={word.at} className="block">
                <Mark kind={word.holds || word.verdict === 'remark' ? SAYS[word.verdict].mark : 'open'}>
                  {word.name} {SAYS[word.verdict].says}
                </Mark>{' '}
                {word.says && <q>{word.says}</q>}{' '}
                <span className="text-ink-2">
                  {when(word.at)}
                  {!word.holds && word.verdict !== 'remark' && ', of what it was then'}
                </span>
              </span>
            ))}
          </li>
        ))}
      </ul>
      <Told error={make.error ?? withdraw.error} />
      {make.data && <Once says="The link." secret={make.data.address} />}
      {editable &&
        (making ? (
          <form
            className="flex flex-wrap items-center gap-2 text-small"
            onSubmit={(event) => {
              event.preventDefault()
              make.mutate()
            }}
          >
            <Input
              aria-label="Whom it is for"
              placeholder="whom it is for"
              value={whom}
              maxLength={200}
              onChange={(event) => setWhom(event.target.value)}
              className="w-[220px]"
            />
            {change.sites.length > 1 && (
              <Choice
                aria-label="What it shows"
                value={site}
                options={[
                  ['', 'all its sites'],
                  ...change.sites.map((one) => [one.key, `${one.name} alone`] as const),
                ]}
                onChoose={setSite}
              />
            )}
            <Button small type="submit" tone="go" disabled={!whom.trim() || make.isPending}>
              Make a link for two weeks
            </Button>
            <Button small tone="quiet" onClick={() => setMaking(false)}>
              not now
            </Button>
          </form>
        ) : (
          <Button small onClick={() => setMaking(true)}>
            Have the client look at it …
          </Button>
        ))}
    </section>
  )
}
