import { useQueryClient } from '@tanstack/react-query'
import { LogOut } from 'lucide-react'
import { AlertDialog } from 'radix-ui'
import { useState } from 'react'
import { client } from '../api/client'
import { saveAll } from '../outline/saver'
import { allUnsaved } from '../outline/unsaved'
import { Button } from '../parts/Button'

/** Signs out once everything is saved; asks first where something cannot be. */
export function SignOut({ person, className }: { person: string; className: string }) {
  const queries = useQueryClient()
  const [left, setLeft] = useState<string[]>([])
  const go = async () => {
    await client.DELETE('/api/session')
    queries.clear()
    window.location.assign('/')
  }
  const ask = async () => {
    await saveAll()
    const names = allUnsaved(person).map((one) => `${one.document.name} of ${one.siteName}`)
    setLeft(names)
    if (names.length === 0) await go()
  }
  return (
    <>
      <button type="button" onClick={() => void ask()} className={className}>
        <LogOut className="size-5" strokeWidth={1.6} aria-hidden="true" />
        Sign out
      </button>
      <AlertDialog.Root open={left.length > 0} onOpenChange={() => setLeft([])}>
        <AlertDialog.Portal>
          <AlertDialog.Overlay className="fixed inset-0 z-40 bg-ink/40" />
          <AlertDialog.Content className="fixed top-1/2 left-1/2 z-50 w-[460px] max-w-[94vw] -translate-x-1/2 -translate-y-1/2 rounded-sign border-[1.5px] border-ink bg-plate p-6">
            <AlertDialog.Title className="text-[17px] font-bold">
              Not everything is saved yet
            </AlertDialog.Title>
            <AlertDialog.Description className="mt-1 mb-4 text-ink-2">
              What you typed in {left.join(' and ')} could not be saved. This browser keeps it for you until
              you sign in here again.
            </AlertDialog.Description>
            <div className="flex justify-end gap-2">
              <AlertDialog.Action asChild>
                <Button onClick={() => void go()}>Sign out all the same</Button>
              </AlertDialog.Action>
              <AlertDialog.Cancel asChild>
                <Button tone="go">Stay</Button>
              </AlertDialog.Cancel>
            </div>
          </AlertDialog.Content>
        </AlertDialog.Portal>
      </AlertDialog.Root>
    </>
  )
}
