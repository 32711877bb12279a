import { cleanup, screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, expect, it, vi } from 'vitest'

import type { Schema } from '../../api/client'
import { answering, refusal, rendered } from '../../test/rendered'
import { FeatureForm } from './FeatureForm'
import { featureKindsOptions } from '../../records/placeQueries'

afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
})

const condition = (value: string, words: string, severity: Schema['Severity'] | null = null, advice = '') => ({
  value,
  words,
  severity,
  advice,
})
const KINDS: Schema['FeatureSpecOut'][] = [
  {
    kind: 'house_shut_off',
    group: 'shut_off',
    name: 'house shut-off',
    forms: ['ball', 'plastic'],
    conditions: [
      condition('sound', 'closes tight'),
      condition('brittle', 'brittle, may snap', 'danger', 'leave it alone'),
    ],
    of: ['gas_tank'],
    of_site: true,
    is_valve: true,
    details: [],
  },
  {
    kind: 'vent',
    group: 'flame',
    name: 'vent',
    forms: [],
    conditions: [condition('sound', 'rises, draws')],
    of: ['gas_tank'],
    of_site: false,
    is_valve: false,
    details: [],
  },
]

function shown(kind: Schema['FeatureKind'], feature?: Schema['FeatureOut']) {
  const onDone = vi.fn()
  rendered(<FeatureForm siteId={3} kind={kind} heaterId={7} feature={feature} onDone={onDone} />, {
    known: [[featureKindsOptions.queryKey, KINDS]],
  })
  return onDone
}

it('is one tap on a condition, which says what to do about it', async () => {
  const sent = answering({ status: 201, body: {} })
  const onDone = shown('vent')
  const keep = screen.getByRole<HTMLButtonElement>('button', { name: 'Keep as seen today' })
  expect(keep.disabled).toBe(true)
  // What is no valve is nothing to forbid, and what has no forms is not asked for one.
  expect(screen.queryByLabelText('Not to be touched')).toBeNull()
  expect(screen.queryByLabelText('Form')).toBeNull()
  await userEvent.click(screen.getByLabelText('rises, draws'))
  await userEvent.click(keep)
  expect(sent[0]).toMatchObject({
    method: 'POST',
    path: '/api/sites/3/features',
    body: { kind: 'vent', heater_id: 7, condition: 'sound' },
  })
  await waitFor(() => expect(onDone).toHaveBeenCalled())
})

it('asks of a valve not to be touched what to use instead, and forgets it when it may be touched', async () => {
  const sent = answering({ body: {} })
  shown('house_shut_off')
  await userEvent.click(screen.getByLabelText('brittle, may snap'))
  expect(screen.getByText('leave it alone')).toBeTruthy()
  await userEvent.click(screen.getByLabelText('Not to be touched'))
  await userEvent.type(screen.getByLabelText('What to use instead'), 'the meter valve')
  await userEvent.click(screen.getByRole('button', { name: 'Keep as seen today' }))
  expect(sent[0]?.body).toMatchObject({ heater_id: null, do_not_operate: true, use_instead: 'the meter valve' })
  await userEvent.click(screen.getByLabelText('Not to be touched'))
  await userEvent.click(screen.getByRole('button', { name: 'Keep as seen today' }))
  expect(sent[1]?.body).toMatchObject({ do_not_operate: false, use_instead: '' })
})

it('changes what was seen before, and tells the field that cannot be so', async () => {
  const sent = answering(refusal('Not kept.', { where: 'too long' }))
  const seen = {
    id: 9,
    kind: 'house_shut_off',
    form: 'ball',
    condition: 'sound',
    where: 'pit',
    note: '',
    do_not_operate: false,
    use_instead: '',
  } as Schema['FeatureOut']
  const onDone = shown('house_shut_off', seen)
  expect(screen.getByLabelText<HTMLSelectElement>('Form').value).toBe('ball')
  await userEvent.type(screen.getByLabelText('Where'), ' at the gate')
  await userEvent.click(screen.getByRole('button', { name: 'Keep as seen today' }))
  expect(sent[0]).toMatchObject({ method: 'PATCH', path: '/api/features/9', body: { where: 'pit at the gate' } })
  expect(await screen.findByText('too long')).toBeTruthy()
  expect(onDone).not.toHaveBeenCalled()
})
