import { expect, it, vi } from 'vitest'
import { reportRowView } from '../../src/contract/index.js'
import { REPORT_MEASURE_NAMES, measured } from '../../src/report/index.js'
import type { Counted } from '../../src/report/measure-table.js'

vi.mock('../../src/report/measure-table.js', async (original) => {
  const module = await original<typeof import('../../src/report/measure-table.js')>()
  return {
    ...module,
    REPORT_MEASURES: {
      ...module.REPORT_MEASURES,
      unseen: { name: 'unseen', kind: 'count', of: (row: Counted) => row.wins - row.viewable, table: { name: 'unseen', width: 60 } }
    }
  }
})

it('a measure that is added as one object is worked out, and answered', () => {
  const counted = Object.fromEntries(Object.keys(measured({} as Counted)).map((name) => [name, 0])) as unknown as Counted
  const row = measured({ ...counted, wins: 10, viewable: 4 })
  expect(row).toMatchObject({ wins: 10, unseen: 6 })
  expect(REPORT_MEASURE_NAMES).toContain('unseen')
  const answer = {
    key: 1,
    label: 'Spain',
    ...row,
    reached: [0, 0, 0, 0],
    clickRange: { low: 0, high: 1 },
    costMicros: null,
    costRange: null
  }
  expect(reportRowView.isValidSync(answer, { strict: true })).toBe(true)
  const { unseen: _, ...without } = answer as typeof answer & { unseen: number }
  expect(reportRowView.isValidSync(without, { strict: true })).toBe(false)
})
