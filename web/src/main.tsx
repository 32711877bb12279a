import './lib/noEval'
import './index.css'
import './lib/nonce'

import { MutationCache, QueryClient } from '@tanstack/react-query'
import { PersistQueryClientProvider } from '@tanstack/react-query-persist-client'
import { Tooltip } from 'radix-ui'
import { StrictMode } from 'react'
import { createRoot } from 'react-dom/client'
import { RouterProvider } from 'react-router'

import { ApiError } from './api/client'
import { lastChange } from './api/lastChange'
import { router } from './app/routes'
import { keeps, persister } from './device/kept'
import { announce } from './ui/announce'
import { wearTheme } from './ui/theme'

declare module '@tanstack/react-query' {
  interface Register {
    mutationMeta: { said?: string }
  }
}

/** What was read is kept on the device for a week. */
const KEPT_MS = 7 * 86_400_000

const queries = new QueryClient({
  // What was asked for is done: who sees the page sees it, who does not hears it.
  mutationCache: new MutationCache({
    // Of what can be taken back it is said that it can; a plain word after that would be read in its place.
    onSuccess: (_data, _asked, _context, mutation) => announce(mutation.meta?.said ?? (lastChange() ? '' : 'Done.')),
  }),
  defaultOptions: {
    queries: {
      gcTime: KEPT_MS,
      staleTime: 30_000,
      // What the person or the record is at fault for does not get better by asking again.
      retry: (count, error) => count < 2 && !(error instanceof ApiError && error.status < 500),
    },
  },
})

wearTheme()

createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <PersistQueryClientProvider
      client={queries}
      persistOptions={{ persister, maxAge: KEPT_MS, dehydrateOptions: { shouldDehydrateQuery: keeps } }}
      // What comes from the device is shown at once and asked for anew, as a reload is meant.
      onSuccess={() => void queries.invalidateQueries()}
    >
      <Tooltip.Provider delayDuration={200}>
        <RouterProvider router={router} />
      </Tooltip.Provider>
    </PersistQueryClientProvider>
  </StrictMode>,
)

if ('serviceWorker' in navigator && import.meta.env.PROD) void navigator.serviceWorker.register('/sw.js')
