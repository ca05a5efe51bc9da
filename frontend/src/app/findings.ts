/** Which findings one looks at: of one site, and which of them is open beside the others. */
export interface FindingsAt {
  site?: string
  code?: string
  cause?: string
}

export function readFindings(search: Record<string, unknown>): FindingsAt {
  const read = (name: keyof FindingsAt, longest: number) => {
    const value = search[name]
    return typeof value === 'string' && value !== '' && value.length <= longest ? { [name]: value } : {}
  }
  return { ...read('site', 200), ...read('code', 100), ...read('cause', 3_000) }
}
