import { useSearch } from '@tanstack/react-router'
import { type Lens, readLens } from './lens'

export function useLens(): Lens {
  return readLens(useSearch({ strict: false }))
}
