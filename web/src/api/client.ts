import createClient, { type Middleware } from 'openapi-fetch'

import { learn } from './clock'
import { setLastChange } from './lastChange'
import { staleNamed } from './stale'
import type { components, paths } from './schema.gen'

export type Schema = components['schemas']

/** What the server says when something cannot be done: a stable code, a sentence, and the fields it concerns. */
export class ApiError extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly fields: Record<string, string>,
  ) {
    super(message)
  }
}

function cookie(name: string): string {
  const found = document.cookie.split('; ').find((entry) => entry.startsWith(`${name}=`))
  return found ? decodeURIComponent(found.slice(name.length + 1)) : ''
}

const forgeryToken: Middleware = {
  onRequest({ request }) {
    if (request.method !== 'GET') request.headers.set('X-CSRFToken', cookie('csrftoken'))
    return request
  },
}

/** What was written is named by the server; what a visit found is corrected by a new entry, not taken back. */
const changeNamed: Middleware = {
  onResponse({ request, response }) {
    const change = response.headers.get('X-Change')
    if (request.method !== 'GET' && response.ok && !new URL(request.url).pathname.startsWith('/api/visits')) {
      setLastChange(request.url.endsWith('/undo') ? null : change)
    }
    return response
  },
}

/** A device's clock may be wrong; every answer says what time it is. */
const clock: Middleware = {
  onResponse({ response }) {
    learn(response.headers.get('Date'))
    return response
  },
}

/**
 * JSON knows no NaN and would send what is no number as nothing. It is sent as a word, and the server says at which
 * field; what was typed is not dropped in silence.
 */
export const written = (body: unknown) =>
  body instanceof FormData
    ? body
    : JSON.stringify(body, (_, value: unknown) => (Number.isNaN(value) ? 'no number' : value))

export const client = createClient<paths>({
  bodySerializer: written,
  baseUrl: '/',
  fetch: (request) => fetch(request),
  querySerializer: { array: { style: 'form', explode: true } },
})
client.use(forgeryToken, changeNamed, staleNamed, clock)

interface Answer<T> {
  data?: T
  error?: unknown
  response: Response
}

/** The answer's data, or an `ApiError` with what the server said. */
export async function unwrap<T>(asked: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>
  try {
    answer = await asked
  } catch {
    throw new ApiError(503, 'no_connection', 'The server does not answer. What you typed is kept here; try again.', {})
  }
  if (answer.response.ok && answer.data !== undefined) return answer.data
  const said = (answer.error ?? {}) as { code?: string; message?: string; fields?: Record<string, string> }
  throw new ApiError(
    answer.response.status,
    said.code ?? 'unexpected',
    said.message ?? 'The server could not do this. Nothing was changed; try again.',
    said.fields ?? {},
  )
}
