import { restrictionWords } from './words.js'
import type { LineDraft } from './line.js'

/** One field that differs between two drafts, in words. */
export interface FieldChange {
  field: string
  before: string
  after: string
}

type Leaf = [field: string, value: string]

/** When a line is open, in words. */
export function hoursWords(hours: LineDraft['hours']): string {
  if (!hours) return 'always'
  const off = hours.perMille.filter((perMille) => perMille === 0).length
  const bent = hours.perMille.filter((perMille) => perMille !== 0 && perMille !== 1000).length
  return [`${168 - off} of 168 hours`, bent > 0 ? `${bent} adjusted` : '', hours.clock === 'viewer' ? "the viewer's time" : ''].filter(Boolean).join(', ')
}

/** Fields that most lines do not use: told only where they are set. */
function extras({ price, budget, buys }: LineDraft): Leaf[] {
  const told: [string, unknown][] = [
    ['price.model', price.model === 'CPM' ? null : price.model], ['price.repeatDiscount', price.repeatDiscount], ['price.steps', price.steps?.length], ['price.adjustments', price.adjustments?.length],
    ...Object.entries(budget).filter(([name]) => name !== 'dailyMicros' && name !== 'totalMicros').map(([name, value]): [string, unknown] => [`budget.${name}`, value]),
    ['buys', buys && (!buys.open || buys.deals.length > 0) ? `${buys.open ? 'open market and ' : ''}${buys.deals.length} deals` : null]
  ]
  return told.flatMap(([field, value]): Leaf[] => (value === null || value === undefined || value === 0 ? [] : [[field, typeof value === 'number' || typeof value === 'string' ? String(value) : JSON.stringify(value)]]))
}

/** A draft as a list of fields, each with its value in words. */
function leaves(draft: LineDraft): Leaf[] {
  const amount = (micros: number | null) => (micros === null ? 'none' : (micros / 1e6).toFixed(micros % 10_000 === 0 ? 2 : 3))
  return [
    ['name', draft.name], ['zone', draft.zone],
    ['flight.startDate', draft.flight.startDate], ['flight.endDate', draft.flight.endDate ?? 'open'],
    ['price.bidMicros', amount(draft.price.bidMicros)], ['price.maxMicros', amount(draft.price.maxMicros)],
    ['budget.dailyMicros', amount(draft.budget.dailyMicros)], ['budget.totalMicros', amount(draft.budget.totalMicros)],
    ['pacing', draft.pacing], ['caps', draft.caps.map(({ times, hours }) => `${times} in ${hours} h`).join(', ') || 'none'],
    ['format', draft.format], ['hours', hoursWords(draft.hours)], ['gapMinutes', draft.gapMinutes ? `${draft.gapMinutes} minutes` : 'none'],
    ...extras(draft),
    ['landing', draft.landing || 'none'], ['onceCleared', draft.onceCleared],
    ...draft.targeting.restrictions.map((r): Leaf => [`targeting.${r.dimension}.${r.mode}`, restrictionWords(r)])
  ]
}

/** The fields in which two drafts differ, in the order of the form. */
export function changesBetween(before: LineDraft, after: LineDraft): FieldChange[] {
  const was = new Map(leaves(before))
  const is = new Map(leaves(after))
  return [...new Set([...was.keys(), ...is.keys()])]
    .map((field) => ({ field, before: was.get(field) ?? 'none', after: is.get(field) ?? 'none' }))
    .filter((change) => change.before !== change.after)
}
