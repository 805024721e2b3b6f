import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { useDesk } from './support/browser.js'
import { walkTour, type Stop } from './support/tour.js'

const DOCS = join(import.meta.dirname, '..', 'docs')
/** Set by `npm run tour`, which walks through the whole world and writes what it saw. */
const writes = process.env.WRITE_TOUR === 'yes'

const told = (stops: readonly Stop[]) =>
  [
    '# A morning of a buyer',
    '',
    'Inês Duarte of Wharfside begins on Monday, 2 March. Every figure below stood on the pages of the demo as `npm start` makes it:',
    'this text is written by `npm run tour`, which walks all stops.',
    '',
    ...stops.flatMap(({ title, words }, n) => [`## ${n + 1}. ${title}`, '', words, ''])
  ].join('\n')

/** The titles of a tour: what is the same in a world of any size. */
const outline = (text: string) => text.split('\n').filter((line) => line.startsWith('#'))

describe('the tour', () => {
  const desk = useDesk()

  it('of a morning is walked by hand, and the text that tells it has the same stops', async () => {
    const stops: Stop[] = []
    await walkTour(desk.page, async (stop) => {
      stops.push(stop)
      // Nothing that a page shows as a figure is left open.
      expect(stop.words).not.toMatch(/undefined|NaN|null|“”|: “–/)
    })
    expect(stops.length).toBeGreaterThan(7)
    if (writes) writeFileSync(join(DOCS, 'tour.md'), told(stops))
    expect(outline(readFileSync(join(DOCS, 'tour.md'), 'utf8'))).toEqual(outline(told(stops)))
  })
})
