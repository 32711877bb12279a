import { act, renderHook } from '@testing-library/react'
import { beforeEach, describe, expect, it } from 'vitest'

import { findings, forgetDraft, useDraft, type Draft } from './draft'

const empty: Draft = { clientId: 'x', step: 0, flush: {}, descale: {}, rod: {}, vessel: {}, look: {}, upkeep: {}, valve: {}, pressure: {}, tapC: null, supervisedBy: null, guide: null, events: [] }

describe('what a visit sends', () => {
  it('is nothing where nothing was looked at', () => {
    expect(findings(empty, 'jetting')).toEqual([])
    expect(findings({ ...empty, flush: { skipped: true, removed: 'heavy' }, rod: { skipped: true } }, 'jetting')).toEqual([])
  })

  it('names the company’s method where none was tapped', () => {
    expect(findings({ ...empty, flush: { removed: 'heavy' } }, 'drain_and_pulse')).toEqual([
      { task: 'flush', removed: 'heavy', method: 'drain_and_pulse' },
    ])
  })

  it('looks at the old rod before the new one is fitted', () => {
    const sent = findings({ ...empty, rod: { grade: 'gone', replaced: true } }, 'jetting')
    expect(sent.map((one) => one.task)).toEqual(['anode_inspection', 'anode_replacement'])
  })

  it('says of each small part how it was found', () => {
    expect(findings({ ...empty, upkeep: { burner: 'fouled', inlet_screen: 'clean' } }, 'jetting')).toEqual([
      { task: 'upkeep', item: 'burner', fouling: 'fouled' },
      { task: 'upkeep', item: 'inlet_screen', fouling: 'clean' },
    ])
  })
})

describe('a draft', () => {
  beforeEach(() => localStorage.clear())

  it('outlives its page, with the same id', () => {
    const first = renderHook(() => useDraft(7))
    act(() => first.result.current.change({ valve: { outcome: 'no_flow' } }))
    first.unmount()
    const again = renderHook(() => useDraft(7))
    expect(again.result.current.draft.valve.outcome).toBe('no_flow')
    expect(again.result.current.draft.clientId).toBe(first.result.current.draft.clientId)
    expect(renderHook(() => useDraft(8)).result.current.draft.valve).toEqual({})
  })

  it('is another once the server has it', () => {
    const first = renderHook(() => useDraft(7)).result.current.draft.clientId
    forgetDraft(7)
    expect(renderHook(() => useDraft(7)).result.current.draft.clientId).not.toBe(first)
  })

  it('starts afresh from what cannot be read', () => {
    localStorage.setItem('aquifer.visit.7', '{broken')
    expect(renderHook(() => useDraft(7)).result.current.draft.step).toBe(0)
  })
})
