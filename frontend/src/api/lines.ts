import type { Problem } from './client'
import { Refused } from './client'
import { pageOwner } from './session'

/** Asks for an answer that comes line by line (application/jsonl), and gives each as it arrives. Throws Refused. */
export async function* jsonLines<T>(path: string, body: unknown, signal: AbortSignal): AsyncGenerator<T[]> {
  const owner = pageOwner()
  const answer = await fetch(path, {
    method: 'POST',
    headers: { 'content-type': 'application/json', ...(owner ? { 'sign-shelf-person': owner } : {}) },
    body: JSON.stringify(body),
    signal,
  })
  if (!answer.ok || !answer.body) {
    const told = (await answer.json().catch(() => ({}))) as Partial<Problem>
    throw new Refused({
      type: told.type ?? 'about:blank',
      title: told.title ?? 'Refused',
      status: answer.status,
      detail: told.detail ?? `The server answered ${answer.status}.`,
      where: told.where,
      remedy: told.remedy,
    })
  }
  const reader = answer.body.pipeThrough(new TextDecoderStream()).getReader()
  let rest = ''
  for (;;) {
    const { value, done } = await reader.read()
    const lines = (rest + (value ?? '')).split('\n')
    rest = lines.pop() ?? ''
    const whole = lines.filter(Boolean).map((line) => JSON.parse(line) as T)
    if (whole.length > 0) yield whole
    if (done) return
  }
}
