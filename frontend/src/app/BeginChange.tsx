import { useMutation } from '@tanstack/react-query'
import { useNavigate } from '@tanstack/react-router'
import { useRef, useState } from 'react'
import { answered, client, newKey } from '../api/client'
import { worksElsewhere } from '../api/inside'
import { useAnew } from '../api/keys'
import { Asked } from '../parts/Asked'
import { Button } from '../parts/Button'
import { Input } from '../parts/Input'
import { Sheet } from '../parts/Sheet'
import { Told } from '../parts/Told'

/** Another change of the site, which sets out from what is live; what one works in now stays as it is. */
export function BeginChange({ site, onClose }: { site: string; onClose: () => void }) {
  const anew = useAnew()
  const navigate = useNavigate()
  const [title, setTitle] = useState('')
  const [why, setWhy] = useState('')
  const key = useRef(newKey())
  const begin = useMutation({
    mutationFn: () =>
      answered(
        client.POST('/api/sites/{site}/changes', {
          params: { path: { site }, header: { 'idempotency-key': key.current } },
          body: { title, why },
        }),
      ),
    onError: () => {
      key.current = newKey()
    },
    onSuccess: async () => {
      onClose()
      await navigate({ to: '.', search: (before: object) => ({ ...before, in: undefined }) })
      worksElsewhere()
      await anew.site(site)
    },
  })
  return (
    <Sheet title="Begin another change" className="w-[460px] gap-3 p-6" onOpen={(open) => !open && onClose()}>
      <form
        className="grid gap-3"
        onSubmit={(event) => {
          event.preventDefault()
          begin.mutate()
        }}
      >
        <Asked says="What it is">
          {(id) => (
            <Input
              id={id}
              value={title}
              placeholder="Summer timetable"
              onChange={(event) => setTitle(event.target.value)}
              className="w-full"
            />
          )}
        </Asked>
        <Asked says="Why, for whoever looks at it">
          {(id) => (
            <Input id={id} value={why} onChange={(event) => setWhy(event.target.value)} className="w-full" />
          )}
        </Asked>
        <p className="text-small text-ink-2">
          It sets out from what is live. What you worked in until now stays as it is; you come back to it
          through the same word of the lens.
        </p>
        <Told error={begin.error} />
        <span className="flex justify-end">
          <Button tone="go" type="submit" disabled={!title.trim() || begin.isPending}>
            Begin it
          </Button>
        </span>
      </form>
    </Sheet>
  )
}
