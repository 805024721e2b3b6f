import { computed, type ComputedRef } from 'vue'
import { changeWords, type LineDraft } from '@tin-harbor/core/buying'
import type { GoalMeasure, Holdback, MainFigures } from '@tin-harbor/core/forecast'
import { about, decimal, money, smallMoney } from './formats'

/** A better use of the money, in words. */
export interface AdviceRow {
  holdback: Holdback
  words: string
  gain: string
}
export interface AdviceGroup {
  title: string
  rows: AdviceRow[]
}

interface Asked {
  figures: MainFigures | null
  holdbacks: Holdback[] | null
  measure: GoalMeasure
  draft: LineDraft
}

/** Gains in the goal's measure, where it is another than wins; a change may win fewer. */
const MEASURES = {
  wins: '',
  reach: 'people in 7 days',
  views: 'views a day',
  visits: 'visits a day',
  conversions: 'conversions a day'
} as const

/** What a remark is worth: a twentieth more for the same money, or more money at no more than a quarter over what one costs now. */
const WORTH = 0.05
const DEARER = 1.25

/** What is advised of a line's money: in groups, and the one that is worth a remark. */
export function useAdvice(asked: Asked): { groups: ComputedRef<AdviceGroup[]>; advised: ComputedRef<AdviceRow | undefined> } {
  const now = computed(() => {
    const day = asked.figures?.day
    const got = day?.[asked.measure].value ?? 0
    return { got, each: day && got > 0 ? day.spend.value / got : 0 }
  })
  const inGoal = (gain: number) => {
    if (asked.measure === 'wins') return ''
    const words = gain < 0.95 ? Number(gain.toPrecision(2)) : gain < 9.95 ? decimal(gain) : about(gain)
    return `${words} more ${MEASURES[asked.measure]}, `
  }
  const gainOf = ({ gain, wins, spendMicros, takesMore, eachMicros }: Holdback) =>
    [
      `${inGoal(gain)}${about(Math.abs(wins))} ${wins < 0 ? 'fewer' : 'more'} wins a day`,
      `${money(Math.abs(spendMicros))} ${spendMicros < 0 ? 'less' : 'more'} spent`
    ].join(', ') + (takesMore && eachMicros !== null ? `; one more costs ${smallMoney(eachMicros)}, ${smallMoney(now.value.each)} now` : '')
  const rows = computed(() =>
    (asked.holdbacks ?? []).map((holdback) => ({ holdback, words: changeWords(asked.draft, holdback.change), gain: gainOf(holdback) }))
  )
  const groups = computed(() =>
    [
      { title: 'For the same money', rows: rows.value.filter(({ holdback }) => !holdback.takesMore) },
      { title: 'For more money', rows: rows.value.filter(({ holdback }) => holdback.takesMore) }
    ].filter((group) => group.rows.length > 0)
  )
  const advised = computed(
    () =>
      rows.value.find(({ holdback: { takesMore, gain } }) => !takesMore && gain >= WORTH * now.value.got) ??
      rows.value.find(
        ({ holdback: { takesMore, eachMicros } }) => takesMore && eachMicros !== null && eachMicros <= DEARER * now.value.each
      )
  )
  return { groups, advised }
}
