import { readdirSync, statSync } from 'node:fs'
import { inProject } from './project.mjs'
import { copyTemplate, dropSchema, makeTemplate, startTestServer } from './test-server.mjs'

/** A browser waits more than it works: so many files run side by side. */
const LANES = 2
const TEMPLATE = 'test_pages'
/** It walks through the whole demo, whose making takes minutes: `npm run tour` does. */
const TOUR = 'tour.test.ts'
/** Here ads are looked at in working hours; elsewhere they are cleared at once. */
const REVIEW = 'review.test.ts'

/** @param {string} url of a database server @param {string} schema */
function inSchema(url, schema) {
  const own = new URL(url)
  own.pathname = `/${schema}`
  return own.href
}

/**
 * Makes the demo that browser tests begin with: a minute of one processor, which other tests leave now and then.
 * @param {string} url of a database server
 */
export const makePagesTemplate = (url) => makeTemplate(inSchema(url, TEMPLATE))

/**
 * Runs files of browser tests, once their demo is made, each on a market of its own as the demo begins: what one of them does to the
 * clock, and in which order they come, is nothing to the others.
 * @param {string} url of a database server
 * @param {(file: string, address: string) => Promise<void>} run
 * @param {string[]} [only] names of files; all of them when left out
 */
export async function browserTests(url, run, only = []) {
  const files = readdirSync(inProject('e2e')).filter(
    (file) => file.endsWith('.test.ts') && file !== TOUR && (only.length === 0 || only.includes(file))
  )
  // The longest first, so that no lane is left with one at the end.
  const queue = files
    .map((file) => ({ file, size: statSync(inProject('e2e', file)).size }))
    .sort((a, b) => b.size - a.size)
    .map(({ file }) => file)
  const lane = async () => {
    for (let file = queue.shift(); file; file = queue.shift()) {
      const schema = `${TEMPLATE}_${file.replace(/\W.*$/, '').replaceAll('-', '_')}`
      const server = await startTestServer(inSchema(url, schema), undefined, {
        fresh: false,
        // The server's own tests check every answer; here pages are looked at.
        checks: false,
        tapes: await copyTemplate(url, TEMPLATE, schema),
        review: file === REVIEW ? 'working hours' : 'at once'
      })
      try {
        await run(file, server.address)
      } finally {
        await server.stop()
        await dropSchema(url, schema)
      }
    }
  }
  await Promise.all(Array.from({ length: LANES }, lane))
}
