import { changeWords, type Fix, type FixableFinding, type FixEdit, type LineDraft } from '../buying/index.js'
import { AIM_PLURALS, paidEvent } from '../exchange/index.js'
import type { Advice, MainFigures } from '../forecast/index.js'
import { euros } from '../wording/index.js'

const EURO = 1_000_000
/** Under this share of its budget a line is told that it cannot spend it. */
const SPENDS_LITTLE = 0.8
const HOURS = 24
/** Share of what matches whose floor a bid that follows a rate should reach. */
const MOSTLY_OVER = 0.5

/** What a line's bids follow the rate of; nothing for a bid by the thousand. */
function eventWords(price: LineDraft['price']): string | null {
  const event = price.aim?.event ?? paidEvent(price)
  return event ? AIM_PLURALS[event] : null
}

/** What the forecast of a line, and what is advised of it, have to say before it goes live. */
export function forecastFindings(line: LineDraft, figures: MainFigures | null, advice: readonly Advice[] | null): FixableFinding[] {
  const { aim, bidMicros, maxMicros } = line.price
  if (!figures || (aim ? maxMicros : bidMicros) === null) return []
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
      field: aim ? 'price.maxMicros' : 'price.bidMicros',
      message: 'The bid is under the floor of all that it matched in the recorded days.',
      fix: null
    })
  const over = day.matched.value > 0 ? day.eligible.value / day.matched.value : 1
  const event = eventWords(line.price)
  if (event && over > 0 && over < MOSTLY_OVER)
    warns(
      aim ? 'price.aim' : 'price.bidMicros',
      `At the rate of ${event} that is expected of it, it bids under the floor of ${Math.round(100 * (1 - over))} % of what it matches.`,
      ''
    )
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
