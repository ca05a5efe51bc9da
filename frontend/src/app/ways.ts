import type { Schemas } from '../api/client'

export type Kind = Schemas['ConnectionOut']['kind']
export type Wanted =
  | Schemas['BySending']
  | Schemas['ByCommitting']
  | Schemas['ByAsking']
  | Schemas['ByLooking']

interface Way {
  kind: Kind
  name: string
  /** What the site does for it. */
  needs: string
  /** How what went live is known to be there. */
  verified: string
}

/** From the most that a site does itself to nothing at all. */
export const WAYS: readonly Way[] = [
  {
    kind: 'endpoint',
    name: 'We send',
    needs: 'The site answers in the site protocol and keeps what it is sent.',
    verified: 'read back place by place, within seconds.',
  },
  {
    kind: 'fetch',
    name: 'It asks us',
    needs: 'The site asks for its menus when it makes a page.',
    verified: 'its home page is opened as its visitors get it.',
  },
  {
    kind: 'repository',
    name: 'We commit',
    needs: 'The site is built from a Git repository that takes our commits.',
    verified: 'the branch is read back.',
  },
  {
    kind: 'observe',
    name: 'We only look',
    needs: 'Nothing. A person carries out on the site what goes live, entry by entry.',
    verified: 'its home page is opened as its visitors get it.',
  },
]

export const wayOf = (kind: Kind): Way => WAYS.find((one) => one.kind === kind) as Way

/** Within a sentence. */
export const says = (kind: Kind): string => wayOf(kind).name.replace(/^./, (first) => first.toLowerCase())
