import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { answered, client, type Schemas } from '../../api/client'
import { useAnew } from '../../api/keys'
import { Button } from '../../parts/Button'
import { Input } from '../../parts/Input'
import { Told } from '../../parts/Told'

/** Has the site get its menus by commits to a Git repository: tried first, and told what is wrong. */
export function ByCommits({ site }: { site: Schemas['SitePage'] }) {
  const anew = useAnew()
  const commits = site.connection === 'repository'
  const [open, setOpen] = useState(false)
  const [remote, setRemote] = useState('')
  const [branch, setBranch] = useState('main')
  const [folder, setFolder] = useState('menus')
  const keep = useMutation({
    mutationFn: () =>
      answered(
        client.PUT('/api/sites/{site}/repository', {
          params: { path: { site: site.key } },
          body: { remote: remote.trim(), branch: branch.trim(), folder: folder.trim() },
        }),
      ),
    onSuccess: async () => {
      await anew.site(site.key)
      setOpen(false)
    },
  })
  if (!open)
    return (
      <p className="mb-2 flex items-baseline gap-2 text-small text-ink-2">
        {commits ? 'Menus are committed to its repository' : ''}
        <Button small tone="quiet" onClick={() => setOpen(true)}>
          {commits ? 'another repository …' : 'commit its menus to a repository …'}
        </Button>
        {keep.data && <span role="status">{keep.data.says}</span>}
      </p>
    )
  return (
    <form
      aria-label="By commits"
      className="mb-3 flex flex-wrap items-end gap-3 border-l-4 border-wood bg-plate px-3 py-2 text-small text-ink-2"
      onSubmit={(event) => {
        event.preventDefault()
        keep.mutate()
      }}
    >
      <label className="min-w-[280px] flex-1">
        Address of the Git repository
        <Input
          value={remote}
          required
          onChange={(event) => setRemote(event.target.value)}
          placeholder="git@git.example:client/site.git"
          className="mono block w-full"
        />
      </label>
      <label>
        Branch
        <Input
          value={branch}
          required
          size={10}
          onChange={(event) => setBranch(event.target.value)}
          className="mono block"
        />
      </label>
      <label>
        Folder
        <Input
          value={folder}
          size={14}
          onChange={(event) => setFolder(event.target.value)}
          className="mono block"
        />
      </label>
      <Button small type="submit" disabled={!remote.trim() || keep.isPending}>
        Try it and keep it
      </Button>
      <Button small tone="quiet" onClick={() => setOpen(false)}>
        leave it as it is
      </Button>
      <Told error={keep.error} />
    </form>
  )
}
