import { describe, expect, it } from 'vitest'

import { ApiError, unwrap, written } from './client'

const answer = (status: number, body: object) => ({ response: new Response(null, { status }), ...body })

describe('an answer', () => {
  it('is its data', async () => {
    await expect(unwrap(Promise.resolve(answer(200, { data: 7 })))).resolves.toBe(7)
  })

  it('is an error with the server’s words and fields', async () => {
    const said = { code: 'heater.tag_taken', message: 'taken', fields: { tag: 'taken' } }
    const error = await unwrap(Promise.resolve(answer(409, { error: said }))).catch((caught: unknown) => caught)
    expect(error).toBeInstanceOf(ApiError)
    expect(error).toMatchObject({ status: 409, code: 'heater.tag_taken', fields: { tag: 'taken' } })
  })

  it('says that the server does not answer, and what was kept', async () => {
    await expect(unwrap(Promise.reject(new TypeError('network')))).rejects.toThrow('What you typed is kept here')
  })
})

describe('what is sent', () => {
  it('never drops what is no number in silence', () => {
    expect(written({ input_kw: Number('abc'), capacity_l: null, parts: [{ count: NaN }, { count: 2 }] })).toBe(
      '{"input_kw":"no number","capacity_l":null,"parts":[{"count":"no number"},{"count":2}]}',
    )
  })

  it('leaves a file as it is', () => {
    const form = new FormData()
    expect(written(form)).toBe(form)
  })
})
