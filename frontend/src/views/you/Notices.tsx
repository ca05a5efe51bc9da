import { useMutation, useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { answered, client } from '../../api/client'
import { useAnew } from '../../api/keys'
import { noticesQuery } from '../../api/queries'
import { Asked } from '../../parts/Asked'
import { Button } from '../../parts/Button'
import { Input } from '../../parts/Input'
import { Mark } from '../../parts/Mark'
import { Once } from '../../parts/Once'
import { Told } from '../../parts/Told'
import { Trouble } from '../../parts/Trouble'
import { Channel } from './Channel'

/** What one is told without asking: where, of what, when, and whether it arrived. */
export function Notices() {
  const found = useQuery(noticesQuery)
  return (
    <section aria-labelledby="notices" className="mb-6">
      <h2 id="notices">Notices</h2>
      <Trouble query={found} />
      {found.data && !found.data.mail && (
        <p className="text-small">
          <Mark kind="stop">no mail server</Mark> Nothing is sent by mail here until whoever runs the shelf
          names one (SIGN_SHELF_MAIL); what would have been sent is kept below.
        </p>
      )}
      {found.data?.channels.map((one) => (
        <Channel key={one.id} channel={one} />
      ))}
      {found.data && <AddAddress />}
    </section>
  )
}

function AddAddress() {
  const anew = useAnew()
  const [url, setUrl] = useState('')
  const add = useMutation({
    mutationFn: () => answered(client.POST('/api/notices/channels', { body: { url } })),
    onSuccess: async () => {
      setUrl('')
      await anew.mine()
    },
  })
  return (
    <>
      <form
        className="mt-2 flex flex-wrap items-end gap-3"
        onSubmit={(event) => {
          event.preventDefault()
          add.mutate()
        }}
      >
        <div className="w-[360px] max-w-full">
          <Asked says="An address that takes signed webhooks">
            {(id) => (
              <Input
                id={id}
                inputMode="url"
                placeholder="https://"
                value={url}
                onChange={(event) => setUrl(event.target.value)}
                className="w-full"
              />
            )}
          </Asked>
        </div>
        <Button small type="submit" disabled={!url.trim() || add.isPending}>
          Tell it there too
        </Button>
      </form>
      <Told error={add.error} />
      {add.data && (
        <Once says="What its notices are signed with (Standard Webhooks)." secret={add.data.secret} />
      )}
    </>
  )
}
