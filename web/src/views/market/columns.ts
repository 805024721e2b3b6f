import type { SurveyRowView } from '@tin-harbor/core/contract'
import { GLOSSARY } from '@tin-harbor/core/wording'
import { shrunkRate } from '@tin-harbor/core/report'
import type { TableColumn } from '@/parts/table-columns'
import { about, count, cpm, decimal, money, perCent } from '@/composables/formats'

/** A row with what was bought of it in the last four weeks. */
export interface MarketRow extends SurveyRowView {
  own: { wins: number; clicks: number; spendMicros: number; conversions: number } | null
  /** Payout of the offer that is chosen, micros; null for none. */
  payoutMicros?: number | null
  /** Level under a property. */
  isPlacement?: boolean
}

/** A row among rows of its property and placements of others. */
export const rowKey = ({ key, isPlacement }: Pick<MarketRow, 'key' | 'isPlacement'>) => `${isPlacement ? 'p' : ''}${key}`

export interface MarketColumn extends TableColumn<MarketRow> {
  title: string
  width: number
  value: (row: MarketRow) => number | string | null
  words: (row: MarketRow) => string
  /** Not shown unless asked for. */
  hidden?: boolean
}

/** What is better when it is less. */
const LEAST_FIRST = new Set(['floor', 'mean', 'highest', 'half', 'nine', 'bots', 'blocked', 'rivals'])
const number = (
  id: string,
  label: string,
  title: string,
  width: number,
  value: (row: MarketRow) => number | null,
  words: (value: number) => string,
  hidden = false
): MarketColumn => ({
  id,
  label,
  title,
  width,
  isLeastFirst: LEAST_FIRST.has(id),
  value,
  words: (row) => {
    const figure = value(row)
    return figure === null ? '' : words(figure)
  },
  hidden
})

/** What the row's traffic converts at for the chosen offer: the trade's mean, shrunk towards what we had of it. */
export const convertsAt = (row: MarketRow) => shrunkRate(row.conversionRate, row.own?.conversions ?? 0, row.own?.wins ?? 0)
const OFFER = new Set(['converts', 'worth'])
/** Columns that say something only for an offer. */
export const isOfOffer = (column: MarketColumn) => OFFER.has(column.id)

/** Columns of the Market's table, the name aside. */
export const MARKET_COLUMNS: readonly MarketColumn[] = [
  number('day', 'a day', 'opportunities a day', 56, (row) => row.opportunitiesADay, about),
  number('people', 'people', 'different people in 14 days', 56, (row) => row.people, about),
  number('floor', 'floor', 'lowest floor, CPM', 50, (row) => row.floorMicros, cpm),
  number('mean', 'mean', 'what the best rival or the floor asks, in the mean, CPM', 52, (row) => row.meanMicros, cpm),
  number('highest', 'highest', 'the highest price, CPM', 66, (row) => row.highestMicros, cpm, true),
  number('rivals', 'rivals', 'of the two best rivals how many there are, in the mean', 50, (row) => row.rivals, decimal, true),
  number('half', 'wins half', 'the bid that wins half, CPM', 60, (row) => row.halfMicros, cpm),
  number('nine', 'wins 9 in 10', 'the bid that wins nine in ten, CPM', 78, (row) => row.nineInTenMicros, cpm),
  number('won', 'bid wins', GLOSSARY.bidWins.about, 60, (row) => row.winRate, perCent),
  number('viewable', 'viewable', 'as measurers publish it', 58, (row) => row.viewability, perCent),
  {
    id: 'grade',
    label: 'grade',
    title: 'made of robots (0.4), viewability (0.3) and stays (0.3), in fifths of the format',
    width: 44,
    isLeastFirst: true,
    cellClass: ({ grade }) => `MarketTable-grade-${grade}`,
    value: (row) => row.grade,
    words: (row) => row.grade
  },
  number(
    'bots',
    'robots',
    'share of robots, as measurers publish it',
    52,
    (row) => row.bots,
    (share) => perCent(share, 1)
  ),
  number('stays', 'stays', 'visitors who stay two seconds', 54, (row) => row.stays, perCent, true),
  number('blocked', 'blocked', 'pops that browsers hold back', 62, (row) => row.blocked, perCent, true),
  number('direct', 'direct', 'share that the publisher sells itself, the rest through resellers', 52, (row) => row.direct, perCent, true),
  {
    id: 'formats',
    label: 'formats',
    title: 'formats it sells',
    width: 96,
    value: (row) => row.formats ?? '',
    words: (row) => row.formats ?? '',
    hidden: true
  },
  {
    id: 'publisher',
    label: 'publisher',
    title: 'who publishes it',
    width: 130,
    value: (row) => row.publisher ?? '',
    words: (row) => row.publisher ?? '',
    hidden: true
  },
  {
    id: 'converts',
    label: 'converts',
    title: 'conversions of 10,000 shown, with the 90 % range: the trade’s mean as heavy as twenty events, and ours',
    width: 104,
    value: (row) => convertsAt(row).value * 10_000,
    words: (row) => {
      const { value, low, high } = convertsAt(row)
      return `${decimal(value * 10_000)} (${decimal(low * 10_000)}–${decimal(high * 10_000)})`
    }
  },
  number(
    'worth',
    'worth',
    'CPM at which the offer’s payout pays for it',
    56,
    (row) => (row.payoutMicros == null ? null : convertsAt(row).value * 1000 * row.payoutMicros),
    cpm
  ),
  number(
    'own shown',
    'you: shown',
    'shown by your lines in the last 28 days, of what the sentence says',
    68,
    (row) => row.own?.wins ?? null,
    count
  ),
  number(
    'own spend',
    'you: spent',
    'spent by your lines in the last 28 days, of what the sentence says',
    80,
    (row) => row.own?.spendMicros ?? null,
    money,
    true
  ),
  number(
    'own clicks',
    'you: clicks',
    'clicks on your ads in the last 28 days, of what the sentence says',
    80,
    (row) => row.own?.clicks ?? null,
    count,
    true
  )
]
