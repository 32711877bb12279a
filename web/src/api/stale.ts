import type { Middleware } from 'openapi-fetch'

/** What an answer said of other pages: they are new already, or will be once a job has computed them. */
export type Stale = 'at once' | 'soon'

let hear: (when: Stale) => void = () => undefined

/** Be told when what was written makes other pages out of date. */
export function onStale(next: (when: Stale) => void): void {
  hear = next
}

export const staleNamed: Middleware = {
  onResponse({ response }) {
    const when = response.headers.get('X-Stale')
    if (when === 'at once' || when === 'soon') hear(when)
    return response
  },
}
