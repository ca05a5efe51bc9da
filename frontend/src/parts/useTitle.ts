import { useEffect } from 'react'

/** What the browser's tab, its history and a screen reader call the view. */
export function useTitle(...names: (string | undefined)[]): void {
  const title = [...names.filter(Boolean), 'Sign Shelf'].join(' · ')
  useEffect(() => {
    document.title = title
  }, [title])
}
