import { cleanup, render, screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, describe, expect, it, vi } from 'vitest'

import type { Schema } from '../../api/client'
import { UNITS } from '../../test/rendered'
import { DistrictMap, wash } from '../../records/DistrictMap'
import { TestsChart } from './TestsChart'

afterEach(cleanup)

const square = (west: number, south: number, size = 1) => [
  [west, south],
  [west + size, south],
  [west + size, south + size],
  [west, south + size],
]
const zone = (id: number, name: string, hardness: string, outline: number[][] | null) => ({
  id,
  name,
  hardness_class: hardness,
  outline,
})
const corners = (path: Element) =>
  [...path.getAttribute('d')!.matchAll(/([\d.]+) ([\d.]+)/g)].map((one) => [Number(one[1]), Number(one[2])] as const)

describe('the map of the district', () => {
  it('is to scale: north is up, and a degree of longitude shorter than one of latitude', () => {
    const { container } = render(
      <DistrictMap zones={[zone(1, 'Chalk', 'hard', square(0, 59.5))]} width={500} height={500} />,
    )
    const found = corners(container.querySelector('path')!)
    const width = Math.max(...found.map((at) => at[0])) - Math.min(...found.map((at) => at[0]))
    const height = Math.max(...found.map((at) => at[1])) - Math.min(...found.map((at) => at[1]))
    // Cosine of 60 degrees.
    expect(width / height).toBeCloseTo(0.5, 2)
    expect(found[0]![1]).toBeGreaterThan(found[2]![1])
  })

  it('washes harder water darker and tells which zone was picked', async () => {
    expect(['soft', 'moderate', 'hard', 'very hard'].map(wash)).toEqual(
      [...['soft', 'moderate', 'hard', 'very hard'].map(wash)].sort(),
    )
    const onChoose = vi.fn()
    render(
      <DistrictMap
        zones={[
          zone(1, 'Chalk', 'hard', square(0, 50)),
          zone(2, 'Moor', 'soft', square(2, 50)),
          zone(3, 'New', 'soft', null),
        ]}
        width={500}
        height={300}
        onChoose={onChoose}
      />,
    )
    await userEvent.click(screen.getByText('Moor'))
    expect(onChoose).toHaveBeenCalledWith(2)
    expect(screen.queryByText('New')).toBeNull()
  })

  it('says so where nothing is outlined', () => {
    render(<DistrictMap zones={[zone(1, 'Chalk', 'hard', null)]} width={500} height={300} />)
    expect(screen.getByText('No zone has an outline yet.')).toBeTruthy()
  })
})

const test = (part: Partial<Schema['TestOut']>) =>
  ({
    id: 1,
    taken_on: '2026-07-02',
    method: 'drop test',
    site: '',
    site_id: null,
    total_hardness_mg_l: 300,
    alkalinity_mg_l: null,
    may_be_off_by: 1.05,
    ...part,
  }) as Schema['TestOut']

describe('the tests of a water', () => {
  it('stand where they were taken, harder higher, with their error as a bar', () => {
    const { container } = render(
      <TestsChart
        tests={[
          test({}),
          test({ id: 2, taken_on: '2024-07-02', total_hardness_mg_l: 200, method: 'strip', may_be_off_by: 1.3 }),
        ]}
        units={UNITS}
        width={600}
        height={200}
      />,
    )
    const [newer, older] = [...container.querySelectorAll('circle')].map((one) => ({
      x: Number(one.getAttribute('cx')),
      y: Number(one.getAttribute('cy')),
    }))
    expect(newer!.x).toBeGreaterThan(older!.x)
    expect(newer!.y).toBeLessThan(older!.y)
    const bars = [...container.querySelectorAll('line.stroke-ochre')].map((one) =>
      Math.abs(Number(one.getAttribute('y2')) - Number(one.getAttribute('y1'))),
    )
    expect(bars[1]).toBeGreaterThan(3 * bars[0]!)
    expect(screen.getByRole('img').getAttribute('aria-label')).toBe(
      'Hardness and alkalinity in 2 tests, the newest hardness 300 mg/L',
    )
  })

  it('are hollow where they are of one site, and say so where none tells the hardness', () => {
    const { container, rerender } = render(
      <TestsChart tests={[test({ site_id: 4, site: 'Mill' })]} units={UNITS} width={600} height={200} />,
    )
    expect(container.querySelector('circle')?.getAttribute('class')).toContain('fill-sheet')
    expect(container.querySelector('title')?.textContent).toBe('2026-07-02, drop test, at Mill')
    rerender(<TestsChart tests={[test({ total_hardness_mg_l: null })]} units={UNITS} width={600} height={200} />)
    expect(screen.getByText('No test says how hard this water is.')).toBeTruthy()
  })
})
