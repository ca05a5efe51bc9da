import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { useChosen } from '../../api/chosen'
import { answered, client, type Schemas } from '../../api/client'
import { useAnew } from '../../api/keys'
import { Button } from '../../parts/Button'
import { Choice } from '../../parts/Choice'
import { Input } from '../../parts/Input'
import { Mark } from '../../parts/Mark'
import { Tick } from '../../parts/Tick'
import { Told } from '../../parts/Told'
import { when } from '../../parts/times'
import { Arrived } from './Arrived'
import { AtSites } from './AtSites'

type Wishes = Schemas['Wishes']
const ZONES = Intl.supportedValuesOf('timeZone')

/** One place where notices come: what is wished there, and what was told. */
export function Channel({ channel }: { channel: Schemas['ChannelOut'] }) {
  const anew = useAnew()
  const path = { path: { channel_id: channel.id } }
  const again = () => anew.mine()
  const wish = useChosen(
    (body: Wishes) => answered(client.PUT('/api/notices/channels/{channel_id}', { params: path, body })),
    again,
    `wishes of ${channel.id}`,
  )
  const tried = useMutation({
    mutationFn: () => answered(client.POST('/api/notices/channels/{channel_id}/trial', { params: path })),
    onSettled: again,
  })
  const away = useMutation({
    mutationFn: () => answered(client.DELETE('/api/notices/channels/{channel_id}', { params: path })),
    onSettled: again,
  })
  const wishes = wish.value ?? channel.wishes
  const set = (change: Partial<Wishes>) => {
    wish.choose({ ...wishes, ...change })
  }
  const name = channel.kind === 'mail' ? `By mail to ${channel.address}` : channel.address
  const daily = wishes.daily || Object.values(wishes.sites ?? {}).some((one) => one.daily)
  return (
    <section aria-label={name} className="border-t border-hair py-2">
      <div className="flex flex-wrap items-baseline gap-x-3">
        <h3 className="font-semibold break-all">{name}</h3>
        {channel.off_at && <Mark kind="stop">wants no more since {when(channel.off_at)}</Mark>}
        <span className="ml-auto flex gap-2">
          <Button
            small
            aria-label={`Send a trial ${name}`}
            disabled={tried.isPending}
            onClick={() => tried.mutate()}
          >
            Send a trial
          </Button>
          {channel.kind === 'webhook' && (
            <Button
              small
              tone="quiet"
              aria-label={`Take away ${name}`}
              disabled={away.isPending}
              onClick={() => away.mutate()}
            >
              take away
            </Button>
          )}
        </span>
      </div>
      <Told error={wish.error ?? tried.error ?? away.error} />
      <div className="mt-1 grid gap-1">
        <Tick checked={wishes.at_once ?? true} onTick={(at_once) => set({ at_once })}>
          At once, whatever stops a release
        </Tick>
        <Tick checked={wishes.daily ?? true} onTick={(next) => set({ daily: next })}>
          Once a day, what is new, what is yours to see to, and what waits; nothing where there is nothing
        </Tick>
        {daily && <AtWhatTime wishes={wishes} onWish={set} next={channel.daily_due_at} />}
        <AtSites sites={wishes.sites ?? {}} all={wishes} onWish={(sites) => set({ sites })} />
        {channel.off_at && (
          <span>
            <Button small onClick={() => set({})}>
              Send to it again
            </Button>
          </span>
        )}
      </div>
      <Arrived told={channel.told} onDone={again} />
    </section>
  )
}

interface AtProps {
  wishes: Wishes
  onWish: (change: Partial<Wishes>) => void
  next: string | null
}

function AtWhatTime({ wishes, onWish, next }: AtProps) {
  const [at, setAt] = useState(wishes.at ?? '')
  const zone = wishes.zone ?? 'UTC'
  const here = Intl.DateTimeFormat().resolvedOptions().timeZone
  const say = () => at !== wishes.at && onWish({ at: at.trim().padStart(5, '0') })
  return (
    <div className="ml-5 flex flex-wrap items-baseline gap-2 text-small">
      <label className="flex items-baseline gap-2">
        at
        <Input
          value={at}
          inputMode="numeric"
          aria-label="Time of the daily notice"
          placeholder="07:30"
          onChange={(event) => setAt(event.target.value)}
          onBlur={say}
          onKeyDown={(event) => event.key === 'Enter' && say()}
          className="mono w-[64px]"
        />
      </label>
      <label className="flex items-baseline gap-2">
        by the clock of
        <Choice
          aria-label="Clock of the daily notice"
          value={zone}
          onChoose={(next) => onWish({ zone: next })}
          options={[...new Set([zone, here, 'UTC', ...ZONES])]}
        />
      </label>
      {next && <span className="text-ink-2">next {when(next)}</span>}
    </div>
  )
}
