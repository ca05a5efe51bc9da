/** What can stand where the caret is in a rule that is being typed. */
import type { Schemas } from '../../api/client'
import { quoted } from './written'

type Known = readonly Schemas['FactChoice'][]

export interface Completion {
  /** What is offered, and from which character on it takes the place of what was typed. */
  offers: readonly string[]
  from: number
}

/** The word, or the quoted value that is not closed yet, before the caret. */
const BEGUN = /(?:"(?:\\.|[^"\\])*|[^\s()",<>=!&|]*)$/
const CLOSED = /"(?:\\.|[^"\\])*"/g
const ENDS_A_TEST = new Set(['and', 'or'])
/** The language's own words: a value that is one of them is quoted. */
const WORDS = new Set(['and', 'or', 'not', 'is', 'in', 'has', 'any', 'under', 'like', 'always', 'never'])

export function completions(text: string, caret: number, known: Known): Completion {
  const before = text.slice(0, caret)
  // Closed values are written over, so that their last quote begins nothing.
  const typed = BEGUN.exec(before.replace(CLOSED, (value) => ' '.repeat(value.length)))?.[0] ?? ''
  const from = caret - typed.length
  const words = tokens(before.slice(0, from))
  // After a whole test only "and" and "or" can follow: they are offered to who begins to type one.
  const offers = candidates(words, known, typed !== '').filter(
    (one) => bare(one).startsWith(bare(typed)) && one !== typed,
  )
  return { offers: offers.slice(0, 8), from }
}

const bare = (word: string): string => word.replace(/^"/, '').toLowerCase()

function tokens(text: string): string[] {
  return text.match(/"(?:\\.|[^"\\])*"|[(),]|<=|>=|<|>|[^\s()",<>=!&|]+/g) ?? []
}

function candidates(words: readonly string[], known: Known, begun: boolean): string[] {
  const last = words.at(-1)
  const names = known.map((one) => one.name)
  const start = [...names, 'not', 'always', 'never']
  if (last === undefined || ENDS_A_TEST.has(last)) return start
  if (last === 'not')
    return words.at(-2) === 'is' ? values(words.slice(0, -2), known) : start.filter((one) => one !== 'not')
  if (last === '(' || last === ',') return inBrackets(words, known) ?? start
  const fact = known.find((one) => one.name === last)
  if (fact)
    return [...fact.ops.filter((op) => op !== 'holds'), ...(fact.ops.includes('holds') ? ['and', 'or'] : [])]
  if (last === 'is') return ['not', ...values(words.slice(0, -1), known)]
  if (last === 'has') return ['any', ...values(words.slice(0, -1), known)]
  if (['<', '<=', '>', '>=', 'under', 'like', 'in', 'any'].includes(last)) return []
  return begun ? ['and', 'or'] : []
}

/** The values of the fact in whose list the caret stands; null where the bracket is one of a group. */
function inBrackets(words: readonly string[], known: Known): string[] | null {
  const open = words.lastIndexOf('(')
  const op = words[open - 1]
  if (op !== 'in' && op !== 'any') return null
  return values(words.slice(0, op === 'any' ? open - 2 : open - 1), known)
}

function values(words: readonly string[], known: Known): string[] {
  const fact = known.find((one) => one.name === words.at(-1))
  if (fact?.type === 'flag') return ['true', 'false']
  return (fact?.values ?? []).map((one) => (/^[\w.-]+$/.test(one) && !WORDS.has(one) ? one : quoted(one)))
}
