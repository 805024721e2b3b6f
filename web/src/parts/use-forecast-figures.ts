import { computed, shallowRef } from 'vue'
import type { GlossaryTerm } from '@tin-harbor/core/wording'
import type { GoalMeasure, MainFigures, Ranged } from '@tin-harbor/core/forecast'
import { about, cpm, decimal, money, perCent, smallMoney } from '@/composables/formats'

/** A figure as it is told: with its range, what it was before the last edit, and what it is where figures are pinned. */
export interface ToldFigure {
  unit: string
  /** The word that its unit is explained by. */
  term?: GlossaryTerm | undefined
  now: string
  range: string
  was: string | null
  kept: string | null
}

interface Shown {
  figures: MainFigures | null
  was: MainFigures | null
  measure: GoalMeasure
}

/** Counts of few are told to a tenth. */
const few = (value: number) => (value < 10 ? decimal(value) : about(value))
const price = (value: number) => (value > 0 ? cpm(value) : '–')
const EACH = { views: 'view', visits: 'visit', conversions: 'conversion' } as const
const LEAST_EVENTS = 0.2

/** What one of the events costs over the flight. */
function costOf({ flight: { spend, ...counts } }: MainFigures, what: keyof typeof EACH): Ranged {
  const { value, low, high } = counts[what]
  const each = (events: number) => (events > 0 ? spend.value / events : 0)
  // Where next to none may come, nothing says what one would cost at most.
  return { value: each(value), low: each(high), high: low > LEAST_EVENTS ? each(low) : value > 0 ? Infinity : 0 }
}

type Row = readonly [unit: string, pick: (figures: MainFigures) => Ranged, words: (value: number) => string, term?: GlossaryTerm]
const DAY: readonly Row[] = [
  ['matched a day', (f) => f.day.matched, about, 'matched'],
  ['wins a day', (f) => f.day.wins, about, 'wins'],
  ['spend a day', (f) => f.day.spend, money],
  ['win rate, of matched', (f) => f.day.winRate, perCent, 'winRate'],
  ['CPM paid', (f) => f.day.cpm, price],
  ['people in 7 days', (f) => f.day.reach, about]
]
const FLIGHT: readonly Row[] = [
  ['wins', (f) => f.flight.wins, about],
  ['spend', (f) => f.flight.spend, money],
  ['people', (f) => f.flight.reach, about],
  ['times each', (f) => f.flight.frequency, decimal, 'timesEach'],
  ['views', (f) => f.flight.views, about, 'views'],
  ['visits', (f) => f.flight.visits, about, 'visits'],
  ['conversions', (f) => f.flight.conversions, few, 'conversions']
]

/** The forecast's figures in words, for a day and for the flight. */
export function useForecastFigures(shown: Shown) {
  /** Figures that were kept to compare with, and the line that they were of. */
  const pinned = shallowRef<{ figures: MainFigures; words: string } | null>(null)

  function told([unit, pick, words, term]: Row): ToldFigure {
    const now = shown.figures ? pick(shown.figures) : null
    const before = shown.was ? pick(shown.was) : null
    // A figure that moved by less than its rounding did not move.
    const moved = now !== null && before !== null && words(before.value) !== words(now.value)
    const isRange = now !== null && (now.high === Infinity || words(now.low) !== words(now.high))
    return {
      unit,
      term,
      kept: pinned.value ? words(pick(pinned.value.figures).value) : null,
      now: now === null ? '–' : words(now.value),
      range: !isRange ? '' : now.high === Infinity ? `${words(now.low)} or more` : `${words(now.low)} – ${words(now.high)}`,
      was: moved ? `was ${words(before.value)}` : null
    }
  }
  /** What the campaign’s goal counts, where one of it has a cost. */
  const cost = computed((): readonly Row[] => {
    const { measure } = shown
    return measure === 'wins' || measure === 'reach' ? [] : [[`for one ${EACH[measure]}`, (f) => costOf(f, measure), smallMoney]]
  })

  return {
    pinned,
    day: computed(() => DAY.map(told)),
    flight: computed(() => [...FLIGHT, ...cost.value].map(told))
  }
}
