import { mkdirSync, writeFileSync } from 'node:fs'
import { inProject } from '../project.mjs'

/** @param {number[]} values @param {number} share 0 to 1 */
export function quantile(values, share) {
  const sorted = [...values].sort((a, b) => a - b)
  return sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * share))]
}

/** @param {number} value */
export const round = (value) => Math.round(value * 100) / 100

/**
 * Times tasks in turns within one run, since absolute times drift: a, b, c, a, b, c, ...
 * @param {Record<string, () => unknown>} tasks
 * @param {number} rounds
 * @returns {Record<string, number[]>} milliseconds of each, the first round left out
 */
export function interleave(tasks, rounds) {
  /** @type {Record<string, number[]>} */
  const times = Object.fromEntries(Object.keys(tasks).map((name) => [name, []]))
  for (let round = 0; round <= rounds; round++) {
    for (const [name, task] of Object.entries(tasks)) {
      const began = performance.now()
      task()
      if (round > 0) times[name].push(performance.now() - began)
    }
  }
  return times
}

/** Prints one line and writes the figures. @param {string} name @param {Record<string, unknown>} figures */
export function report(name, figures) {
  mkdirSync(inProject('.bench'), { recursive: true })
  writeFileSync(inProject('.bench', `${name}.json`), JSON.stringify(figures, null, 2))
  console.log(`${name}: ${JSON.stringify(figures)}`)
}
