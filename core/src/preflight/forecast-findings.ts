import { changeWords, type Fix, type FixableFinding, type FixEdit, type LineDraft } from '../buying/index.js'
import type { Advice, MainFigures } from '../forecast/index.js'
import { euros } from '../wording/index.js'

const EURO = 1_000_000
/** Under this share of its budget a line is told that it cannot spend it. */
const SPENDS_LITTLE = 0.8
const HOURS = 24

/** What the forecast of a line, and what is advised of it, have to say before it goes live. */
export function forecastFindings(line: LineDraft, figures: MainFigures | null, advice: readonly Advice[] | null): FixableFinding[] {
  if (!figures || line.price.bidMicros === null) return []
  const found: FixableFinding[] = []
  const warns = (field: string, message: string, words: string, ...edits: FixEdit[]) => {
    const fix: Fix | null = edits.length > 0 ? { words, edits, adds: [] } : null
    found.push({ severity: 'warns', field, message, fix })
  }
  const { day, demandMicros } = figures
  const daily = line.budget.dailyMicros
  if (day.matched.value > 0 && day.eligible.value === 0)
    found.push({
      severity: 'stops',
      field: 'price.bidMicros',
      message: 'The bid is under the floor of all that it matched on the tape.',
      fix: null
    })
  if (daily !== null && !figures.tooFew && day.spend.high < daily * SPENDS_LITTLE) {
    const least = Math.max(EURO, Math.ceil(day.spend.high / EURO) * EURO)
    if (least < daily)
      warns(
        'budget.dailyMicros',
        `It would spend about ${euros(Math.round(day.spend.value / 10_000) * 10_000)} of ${euros(daily)} a day.`,
        `Make it ${euros(least)}`,
        { field: 'budget.dailyMicros', value: least }
      )
  }
  if (daily !== null && line.pacing === 'fast' && demandMicros / HOURS > daily)
    warns('pacing', 'As fast as it can, the day’s budget is gone within an hour.', 'Spend it evenly', { field: 'pacing', value: 'even' })
  for (const { changes, spends } of advice ?? []) {
    const [change] = changes
    if (changes.length > 1 || change.kind !== 'cap' || !spends) continue
    if (change.times !== null && change.times <= line.caps[change.cap].times) continue
    warns(
      'caps',
      'The cap ends its reach before the budget is spent.',
      changeWords(line, changes).replace(/^./, (letter) => letter.toUpperCase()),
      {
        field: 'caps',
        value: line.caps.flatMap((cap, n) => (n !== change.cap ? [cap] : change.times === null ? [] : [{ ...cap, times: change.times }]))
      }
    )
  }
  return found
}
