import { afterEach } from 'vitest'
import { whatIsOpen } from './browser.js'

// A test that waits in vain says what it saw instead: where it failed is not where nobody can look any more.
afterEach(async ({ task }) => {
  if (task.result?.state === 'fail') process.stderr.write(`What was open when “${task.name}” failed:\n${await whatIsOpen()}\n`)
})
