import { useMutation } from '@tanstack/react-query'
import { useRef } from 'react'
import { answered, client, newKey } from '../../api/client'
import { useAnew } from '../../api/keys'
import { Button } from '../../parts/Button'
import { Told } from '../../parts/Told'
import { OutlineField } from './OutlineField'
import { type Typed, useTyped } from './typed'

const EMPTY: Typed = { name: '', outline: '', version: 0 }

/** A shared menu that is to be. */
export function NewShared({ onMade }: { onMade: (menu: string) => void }) {
  const anew = useAnew()
  const [kept, keep] = useTyped('')
  const typed = kept ?? EMPTY
  const key = useRef(newKey())
  const begin = useMutation({
    mutationFn: () =>
      answered(
        client.POST('/api/shared-menus', {
          body: { name: typed.name, outline: typed.outline, language: 'en' },
          params: { header: { 'idempotency-key': key.current } },
        }),
      ),
    onError: () => {
      key.current = newKey()
    },
    onSuccess: async ({ key: made }) => {
      keep(null)
      await anew.sites()
      onMade(made)
    },
  })
  return (
    <form
      aria-label="A new shared menu"
      className="grid content-start gap-2 border-l border-hair pl-5 max-lg:border-0 max-lg:pl-0"
      onSubmit={(event) => {
        event.preventDefault()
        begin.mutate()
      }}
    >
      <OutlineField typed={typed} onType={keep} />
      <Told error={begin.error} />
      <span>
        <Button
          type="submit"
          tone="go"
          disabled={!typed.name.trim() || !typed.outline.trim() || begin.isPending}
        >
          Share it
        </Button>
      </span>
    </form>
  )
}
