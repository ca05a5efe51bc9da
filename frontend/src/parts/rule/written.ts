/** A rule put together of parts, written in its normal form: at once, so that no choice waits for an answer. */
import type { Schemas } from '../../api/client'

export type TestPart = Required<Schemas['TestPart']>
export interface GroupPart {
  kind: 'all' | 'any'
  parts: Part[]
  no: boolean
}
export type Part = Required<Schemas['ConstPart']> | TestPart | GroupPart

const BARE_PATH = /^\/[^\s()",<>=!&|']*$/

/** What is written, and how loosely it holds together: what stands in a tighter place goes in brackets. */
type Written = [text: string, joins: 'any' | 'all' | 'no' | 'test']

export const written = (part: Part): string => writtenAs(part)[0]

function writtenAs(part: Part): Written {
  if (part.kind === 'const') return [part.value ? 'always' : 'never', 'test']
  if (part.kind === 'test') {
    const text = test(part)
    return part.no && part.op !== 'is' ? [`not ${text}`, 'no'] : [text, 'test']
  }
  if (!part.no) return group(part)
  const only = part.parts.length === 1 ? part.parts[0] : undefined
  if (only?.kind === 'test' && !only.no) return writtenAs({ ...only, no: true })
  const [text, joins] = group(part)
  return [`not ${joins === 'test' ? text : `(${text})`}`, 'no']
}

function group({ kind, parts }: GroupPart): Written {
  if (parts.length === 0) return [kind === 'all' ? 'always' : 'never', 'test']
  const told = parts.map(writtenAs)
  if (told.length === 1) return told[0] as Written
  const texts = told.map(([text, joins]) => (kind === 'all' && joins === 'any' ? `(${text})` : text))
  return [texts.join(kind === 'all' ? ' and ' : ' or '), kind]
}

function test({ fact, op, values, no }: TestPart): string {
  if (op === 'holds') return fact
  if (op === 'in' || op === 'has any') return `${fact} ${op} (${values.map(value).join(', ')})`
  const [only = ''] = values
  const bare = op === 'under' && typeof only === 'string' && BARE_PATH.test(only)
  return `${fact} ${op}${no && op === 'is' ? ' not' : ''} ${bare ? only : value(only)}`
}

const value = (one: string | number): string =>
  typeof one === 'number' ? String(Number(one.toFixed(9))) : quoted(one)

export const quoted = (text: string): string => `"${text.replace(/[\\"]/g, '\\$&')}"`
