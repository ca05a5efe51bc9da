import './tokens.css'
import { hashKey, QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { RouterProvider } from '@tanstack/react-router'
import { StrictMode } from 'react'
import { createRoot } from 'react-dom/client'
import { Refused } from './api/client'
import { lookedIn, lookIn } from './api/inside'
import { showLight } from './app/light'
import { routerWith } from './app/router'
import { readLens } from './lens/lens'

showLight()
// What a view asks for first is asked for before anything is drawn.
lookIn(readLens(Object.fromEntries(new URLSearchParams(window.location.search))).in)

const queries = new QueryClient({
  defaultOptions: {
    queries: {
      // What is read in one change is nothing that another has.
      queryKeyHashFn: (key) => hashKey([lookedIn() ?? null, key]),
      staleTime: 5_000,
      // A refusal says the same thing however often it is asked for; what broke may hold the next time.
      retry: (failures, error) => failures < 2 && !(error instanceof Refused && error.problem.status < 500),
    },
  },
})

const router = routerWith(queries)
const root = document.getElementById('root')
if (root) {
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={queries}>
        <RouterProvider router={router} />
      </QueryClientProvider>
    </StrictMode>,
  )
}
