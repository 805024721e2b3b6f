import { describe, expect, it } from 'vitest'
import { AliasTable, exactExp, guideTable, hash, logNormalTable, normalOf, poissonThresholds } from '../src/random/index.js'

describe('hash draws', () => {
  it('spread evenly over 32 bits and do not depend on neighbours', () => {
    const cells = new Array<number>(64).fill(0)
    for (let i = 0; i < 64_000; i++) cells[hash(7, 3, i) >>> 26]++
    const chi = cells.reduce((sum, n) => sum + (n - 1000) ** 2 / 1000, 0)
    expect(chi).toBeLessThan(110)
    expect(hash(7, 3, 1)).not.toBe(hash(7, 1, 3))
  })
})

describe('tables', () => {
  it('exactExp agrees with exp', () => {
    for (let x = -20; x <= 20; x += 0.37) expect(Math.abs(exactExp(x) / Math.exp(x) - 1)).toBeLessThan(3e-8)
  })

  it('normalOf is a standard normal quantile, odd and rising', () => {
    let sum = 0
    let squares = 0
    let last = -Infinity
    for (let i = 0; i < 4096; i++) {
      const z = normalOf(i * 1048576 + 524288)
      expect(z).toBeGreaterThan(last)
      last = z
      sum += z
      squares += z * z
    }
    expect(Math.abs(sum / 4096)).toBeLessThan(1e-6)
    expect(Math.abs(squares / 4096 - 1)).toBeLessThan(0.01)
    expect(normalOf(0xffffffff)).toBeLessThan(3.6)
  })

  it('log-normal tables have median 1', () => {
    const table = logNormalTable(0.6)
    expect((table[2047] + table[2048]) / 2).toBeCloseTo(1, 3)
  })

  it.each([0.1, 2, 17, 38])('poisson thresholds of mean %d give that mean', (lambda) => {
    const thresholds = poissonThresholds(lambda, 63)
    let mean = 0
    for (const threshold of thresholds) mean += 1 - threshold / 4294967296
    expect(Math.abs(mean - lambda)).toBeLessThan(0.01 + lambda * 0.001)
  })

  it('alias tables and guides keep the weights', () => {
    const weights = [5, 1, 0, 10, 4]
    const table = new AliasTable(weights)
    const counts = new Array<number>(5).fill(0)
    for (let i = 0; i < 40_000; i++) counts[table.pick(hash(1, i), hash(2, i))]++
    weights.forEach((weight, i) => expect(Math.abs(counts[i] / 40_000 - weight / 20)).toBeLessThan(0.01))
    const guide = new Uint8Array(64)
    guideTable(weights, 64, guide, 0)
    expect(guide.filter((value) => value === 3).length).toBe(32)
    expect(guide).not.toContain(2)
    expect(() => new AliasTable([0, 0])).toThrow(RangeError)
  })
})
