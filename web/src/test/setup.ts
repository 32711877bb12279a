/** Outside a browser a request knows no page that its address could be relative to. */
const Plain = globalThis.Request

globalThis.Request = class extends Plain {
  constructor(input: RequestInfo | URL, init?: RequestInit) {
    super(typeof input === 'string' ? new URL(input, 'http://localhost') : input, init)
  }
}

// The form data that requests outside a browser understand.
const form = await new Response(new URLSearchParams()).formData()
globalThis.FormData = form.constructor as typeof FormData

// What comes late on a busy machine comes all the same.
if ('document' in globalThis) (await import('@testing-library/react')).configure({ asyncUtilTimeout: 20_000 })

export {}
