import { describe, expect, it } from 'vitest'
import { killRun } from '../../scripts/kill-run.mjs'

describe('killed at 2 seeded moments, server and database', () => {
  it('the market goes on from the last whole hour, and its facts equal those of a run never killed', { timeout: 300_000 }, async () => {
    const report = await killRun({ kills: 2, hours: 14, seed: 7 })
    expect(report).toEqual({ kills: 2, lost: 0, doubled: 0, ledgerOffMicros: 0, equal: true })
  })
})
