import { DIMENSIONS, dimensionTitle, type Dimension } from '@tin-harbor/core/dimensions'

/** Fields as the form calls them. */
const NAMES: Readonly<Record<string, string>> = {
  name: 'Name',
  format: 'Format',
  zone: 'Time zone',
  targeting: 'Restrictions',
  flight: 'Flight',
  'flight.startDate': 'First day',
  'flight.endDate': 'Last day',
  'flight.startHour': 'Starts at',
  'flight.endHour': 'Ends at',
  hours: 'Hours',
  price: 'Price',
  'price.model': 'Pays by',
  'price.bidMicros': 'Bid',
  'price.maxMicros': 'Maximum bid',
  'price.aim': 'Aim',
  'price.follow': 'Follows the market',
  'price.repeatDiscount': 'Less for each earlier sight',
  'price.steps': 'Bid steps',
  'price.adjustments': 'Adjustments',
  viewSeconds: 'View point',
  budget: 'Budget',
  'budget.dailyMicros': 'Daily budget',
  'budget.totalMicros': 'Total budget',
  'budget.weeklyMicros': 'Weekly budget',
  'budget.monthlyMicros': 'Monthly budget',
  'budget.placementDailyMicros': 'Daily limit on a placement',
  'budget.sourceDailyMicros': 'Daily limit on a source',
  'budget.dailyImpressions': 'Daily impressions',
  'budget.weeklyImpressions': 'Weekly impressions',
  'budget.monthlyImpressions': 'Monthly impressions',
  'budget.totalImpressions': 'Impressions in all',
  gapMinutes: 'Gap',
  buys: 'Buys',
  pacing: 'Pacing',
  rotation: 'Turns of its ads',
  caps: 'Cap',
  landing: 'Landing link',
  landings: 'Links by country and device',
  onceCleared: 'Once cleared',
  creatives: 'Creatives',
  ads: 'Creatives',
  tags: 'Tags'
}
const capital = (words: string) => words.charAt(0).toUpperCase() + words.slice(1)

/** What the form calls a field, or the part of it that a finding is of: `caps.0.times` is of the cap. */
export function fieldName(field: string): string {
  const parts = field.split('.')
  const [first, dimension, mode] = parts
  if (first === 'targeting' && DIMENSIONS.includes(dimension as Dimension))
    return `${capital(dimensionTitle(dimension as Dimension))}${mode === 'exclude' ? ', left out' : ''}`
  for (let length = parts.length; length > 0; length--) {
    const known = NAMES[parts.slice(0, length).join('.')]
    if (known) return known
  }
  return 'The line'
}
