/** Facts, audiences and named rules while they are edited: every row remembers what it was called. */
import type { Schemas } from '../../api/client'

export type Known = Schemas['FactSet']
type FactType = NonNullable<Known['facts']>[string]

export interface FactRow {
  /** The name that it is kept under; null for a new one. */
  was: string | null
  name: string
  type: FactType['type']
  values: { was: string | null; value: string }[]
  min: number | null
  max: number | null
  whole: boolean
}

export interface AudienceRow {
  name: string
  facts: Record<string, unknown>
}

export interface Draft {
  title: string
  facts: FactRow[]
  audiences: AudienceRow[]
  rules: { was: string | null; name: string; text: string }[]
}

export function draftOf(known: Known): Draft {
  return {
    title: known.title ?? 'Facts',
    facts: Object.entries(known.facts ?? {}).map(([name, fact]) => ({
      was: name,
      name,
      type: fact.type,
      values: (fact.values ?? []).map((value) => ({ was: value, value })),
      min: fact.min ?? null,
      max: fact.max ?? null,
      whole: fact.whole ?? false,
    })),
    audiences: Object.entries(known.audiences ?? {}).map(([name, facts]) => ({ name, facts })),
    rules: Object.entries(known.rules ?? {}).map(([name, text]) => ({ was: name, name, text })),
  }
}

/** The list with one of its rows changed; null takes it away. */
export function withRow<T>(rows: readonly T[], at: number, next: T | null): T[] {
  return rows.flatMap((one, index) => (index !== at ? [one] : next === null ? [] : [next]))
}

/** A name like the others that none of them has. */
export function freeName(stem: string, rows: readonly { name: string }[]): string {
  const taken = new Set(rows.map((one) => one.name))
  let number = rows.length + 1
  while (taken.has(`${stem}${number}`)) number += 1
  return `${stem}${number}`
}

/** The first name that two rows of a list have: what is sent is known by name, and one of them would be lost. */
export function doubled(draft: Draft): string | null {
  for (const rows of [draft.facts, draft.audiences, draft.rules]) {
    const names = rows.map((one) => one.name)
    const twice = names.find((name, at) => names.indexOf(name) !== at)
    if (twice !== undefined) return twice
  }
  return null
}

/** What is sent: the set itself, and which names and values are now called otherwise. */
export function bodyOf(draft: Draft) {
  const renamed: Record<string, string> = {}
  const renamed_values: Record<string, Record<string, string>> = {}
  for (const one of [...draft.facts, ...draft.rules]) {
    if (one.was !== null && one.was !== one.name) renamed[one.was] = one.name
  }
  for (const fact of draft.facts) {
    const changed = fact.values.filter((one) => one.was !== null && one.was !== one.value)
    if (fact.was !== null && changed.length > 0)
      renamed_values[fact.was] = Object.fromEntries(changed.map((one) => [one.was, one.value]))
  }
  const known = {
    title: draft.title,
    facts: Object.fromEntries(draft.facts.map((one) => [one.name, typeOf(one)])),
    audiences: Object.fromEntries(draft.audiences.map((one) => [one.name, one.facts])),
    rules: Object.fromEntries(draft.rules.map((one) => [one.name, one.text])),
  }
  return { known: known as unknown as Record<string, never>, renamed, renamed_values }
}

function typeOf({ type, values, min, max, whole }: FactRow) {
  if (type === 'choice' || type === 'tags') return { type, values: values.map((one) => one.value) }
  if (type !== 'number') return { type }
  return { type, whole, ...(min === null ? {} : { min }), ...(max === null ? {} : { max }) }
}

/** The draft with a fact changed; what audiences know of it goes along. */
export function withFact(draft: Draft, at: number, next: FactRow | null): Draft {
  const before = draft.facts[at]
  if (!before) return draft
  const facts = withRow(draft.facts, at, next)
  // While two rows have one name, what audiences know by it is the other's.
  if (draft.facts.some((one, index) => index !== at && one.name === before.name)) return { ...draft, facts }
  const moved = new Map(before.values.map((one, index) => [one.value, next?.values[index]?.value]))
  const audiences = draft.audiences.map((audience) => {
    const { [before.name]: value, ...others } = audience.facts
    if (value === undefined || next === null) return { ...audience, facts: others }
    return { ...audience, facts: { ...others, [next.name]: renamedValue(value, moved, before, next) } }
  })
  return { ...draft, facts, audiences }
}

function renamedValue(
  value: unknown,
  moved: Map<string, string | undefined>,
  before: FactRow,
  next: FactRow,
): unknown {
  if (before.type !== next.type || before.values.length !== next.values.length) {
    const left = new Set(next.values.map((one) => one.value))
    if (Array.isArray(value)) return value.filter((one) => left.has(one))
    return value
  }
  if (Array.isArray(value)) return value.map((one) => moved.get(one) ?? one)
  return typeof value === 'string' ? (moved.get(value) ?? value) : value
}

/** A fact as rules and audiences choose it. */
export function choiceOf(fact: FactRow): Schemas['FactChoice'] {
  return {
    name: fact.name,
    type: fact.type,
    values: fact.values.map((one) => one.value),
    ops: [],
    says: '',
    from_: 'own',
  }
}
