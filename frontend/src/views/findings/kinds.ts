import type { Schemas } from '../../api/client'
import type { MarkKind } from '../../parts/Mark'

export type Line = Schemas['LineOut']
export type Severity = Line['severity']

/** What a kind of finding is called beside what it says: the last words of its code, or better ones. */
const CALLED: Record<string, string> = {
  'link-missing-part': 'no part',
  'link-no-host': 'no host',
  'link-tls': 'certificate',
  'link-too-big': 'too large',
  'pending-overdue': 'overdue',
  'page-unknown': 'no page',
  'page-orphan': 'in no menu',
  'page-far': 'far away',
  'device-lacks': 'lacking',
  'label-missing': 'no label',
  'label-differs': 'two names',
  'label-long': 'too long',
  'title-long': 'too long',
  'script-only': 'no reader',
  'target-twice': 'twice',
  'target-parent': 'as above',
  'menu-nowhere': 'not hung',
  'place-empty': 'empty',
  'required-missing': 'required',
  'wrong-parent': 'misplaced',
  'contrast-low': 'contrast',
  'tap-small': 'tap area',
  'states-alike': 'states',
  'only-one': 'only one',
}

export const called = (code: string): string =>
  CALLED[code] ??
  code.replace(/^(link|page|address|host|badge|rule|time|window|menu|label)-/, '').replaceAll('-', ' ')

export const MARKS: Record<Severity, MarkKind> = { stop: 'stop', warn: 'waiting', note: 'open' }

export const SEVERITIES: readonly { severity: Severity; says: string }[] = [
  { severity: 'stop', says: 'stop a release' },
  { severity: 'warn', says: 'warn' },
  { severity: 'note', says: 'note' },
]

export const FAMILIES: readonly Line['family'][] = [
  'targets',
  'structure',
  'words',
  'look',
  'visibility',
  'time',
  'crawlers',
  'sync',
]

export const entries = (count: number): string => (count === 1 ? '1 entry' : `${count} entries`)

/** Where it is found, in few words. */
export function where(line: Line): string {
  const [first] = line.sites
  const sites = line.sites.length === 1 && first ? first.name : `${line.sites.length} sites`
  return line.entries > 0 ? `${entries(line.entries)}, ${sites}` : sites
}

export const nameOf = (line: Line): string => `${line.code} ${line.cause}`
