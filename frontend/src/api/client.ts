import createClient, { createQuerySerializer } from 'openapi-fetch'
import { lookedIn } from './inside'
import type { components, paths } from './schema.gen'
import { pageOwner, sessionEnded, sitting } from './session'

export type Schemas = components['schemas']

/** What the server says when it refuses: problem details (RFC 9457). */
export interface Problem {
  type: string
  title: string
  status: number
  detail: string
  where?: string
  remedy?: string
  merge?: MergeProblem
  /** Of a time that a clock never shows, or shows twice: what was probably meant. */
  comes?: string
  offers?: string[]
}

export type Conflict = Schemas['MenuConflictOut']

export type MergeProblem = Schemas['WorkedOut'] & {
  by: string[]
  did: string[]
  /** Whether nobody but oneself saved meanwhile. */
  own: boolean
  base: string
}

export class Refused extends Error {
  constructor(readonly problem: Problem) {
    super(problem.remedy ? `${problem.detail} ${problem.remedy}` : problem.detail)
  }
}

/** What kind of refusal it is, as the server names it. */
export const isRefused = (error: unknown, kind: string): boolean =>
  error instanceof Refused && error.problem.type.endsWith(`:${kind}`)

const serialized = createQuerySerializer<Record<string, unknown>>()

export const client = createClient<paths>({
  baseUrl: '/',
  querySerializer: (query) => serialized({ in: lookedIn(), ...(query as Record<string, unknown>) }),
})

const SESSION = '/api/session'

/** In which sitting each request that is under way was sent. */
const asked = new Map<string, number>()

client.use({
  onRequest({ id, request, schemaPath }) {
    asked.set(id, sitting())
    const owner = pageOwner()
    if (owner && schemaPath !== SESSION) request.headers.set('sign-shelf-person', owner)
  },
  onResponse({ id, response, schemaPath }) {
    if (response.status === 401 && schemaPath !== SESSION) sessionEnded(asked.get(id) ?? sitting())
    asked.delete(id)
  },
  onError({ id }) {
    asked.delete(id)
  },
})

/** The answer's data; throws Refused with the server's own words. */
export async function answered<T>(
  asked: Promise<{ data?: T; error?: unknown; response: Response }>,
): Promise<T> {
  const { data, error, response } = await asked
  if (error !== undefined || !response.ok) {
    const told = error as Partial<Problem> | undefined
    throw new Refused({
      type: told?.type ?? 'about:blank',
      title: told?.title ?? 'Refused',
      status: response.status,
      detail: told?.detail ?? `The server answered ${response.status}.`,
      where: told?.where,
      remedy: told?.remedy,
      merge: told?.merge,
      comes: told?.comes,
      offers: told?.offers,
    })
  }
  return data as T
}

/** A key for a create, so that asking twice makes it once. */
export const newKey = (): string => crypto.randomUUID()
