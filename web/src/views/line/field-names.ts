/** Fields as the form calls them. */
const NAMES: Readonly<Record<string, string>> = {
  name: 'Name',
  zone: 'Time zone',
  'flight.startDate': 'First day',
  'flight.endDate': 'Last day',
  'price.bidMicros': 'Bid',
  'price.maxMicros': 'Maximum bid',
  'budget.dailyMicros': 'Daily budget',
  'budget.totalMicros': 'Total budget',
  'budget.weeklyMicros': 'Weekly budget',
  'budget.monthlyMicros': 'Monthly budget',
  viewSeconds: 'View point',
  'flight.startHour': 'Starts at',
  'flight.endHour': 'Ends at',
  'budget.placementDailyMicros': 'Daily limit on a placement',
  'budget.sourceDailyMicros': 'Daily limit on a source',
  'budget.dailyImpressions': 'Daily impressions',
  'budget.weeklyImpressions': 'Weekly impressions',
  'budget.monthlyImpressions': 'Monthly impressions',
  'budget.totalImpressions': 'Impressions in all',
  gapMinutes: 'Gap',
  buys: 'Buys',
  pacing: 'Pacing',
  caps: 'Cap',
  landing: 'Landing link',
  onceCleared: 'Once cleared',
  creatives: 'Creatives',
  'targeting.where': 'Where',
  'targeting.size': 'Sizes',
  'targeting.device': 'Devices'
}

export function fieldName(field: string): string {
  const known = NAMES[field]
  if (known) return known
  const [, dimension, mode] = field.split('.')
  const base =
    NAMES[`targeting.${dimension}`] ??
    { placement: 'Placements', property: 'Properties', source: 'Sources', class: 'Kind of property' }[dimension ?? ''] ??
    field
  return mode === 'exclude' ? `${base}, left out` : base
}
