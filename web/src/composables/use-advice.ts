import { computed, type ComputedRef } from 'vue'
import { changeWords, type LineDraft } from '@tin-harbor/core/buying'
import type { Advice, Advised, GoalMeasure, MainFigures } from '@tin-harbor/core/forecast'
import { MEASURE_WORDS } from './measures'
import { about, decimal, money, smallMoney } from './formats'

/** A better use of the money, in words. */
export interface AdviceRow {
  advice: Advice
  words: string
  gain: string
}
export interface AdviceGroup {
  title: string
  rows: AdviceRow[]
}

interface Asked {
  figures: MainFigures | null
  advised: Advised | null
  measure: GoalMeasure
  draft: LineDraft
}

const small = (gain: number) => (gain < 0.95 ? String(Number(gain.toPrecision(2))) : gain < 9.95 ? decimal(gain) : about(gain))

/** What a remark is worth: a twentieth more for the same money, or more money at no more than a quarter over what one costs now. */
const WORTH = 0.05
const DEARER = 1.25

/** What is advised of a line's money: in groups, and the one that is worth a remark. */
export function useAdvice(asked: Asked): { groups: ComputedRef<AdviceGroup[]>; best: ComputedRef<AdviceRow | undefined> } {
  const now = computed(() => {
    const day = asked.figures?.day
    const got = day?.[asked.measure].value ?? 0
    return { got, each: day && got > 0 ? day.spend.value / got : 0 }
  })
  /** "3.1 (2.0 to 4.2) more visits a day, 900 fewer wins": the goal first, whose range says how sure the gain is. */
  const inGoal = ({ gain, low, high, wins }: Advice) => {
    const words = `${small(gain)} (${small(low)} to ${small(high)}) more ${MEASURE_WORDS[asked.measure]}`
    return asked.measure === 'wins' ? words : `${words}, ${about(Math.abs(wins))} ${wins < 0 ? 'fewer' : 'more'} wins a day`
  }
  const gainOf = (advice: Advice) => {
    const { gain, spendMicros, takesMore, eachMicros } = advice
    const spend = (asked.figures?.day.spend.value ?? 0) + spendMicros
    const got = now.value.got + gain
    const price =
      takesMore && eachMicros !== null ? `one more costs ${smallMoney(eachMicros)}` : `one costs ${smallMoney(got > 0 ? spend / got : 0)}`
    // What buys nothing now has no price now.
    const before = now.value.got > 0 ? `, ${smallMoney(now.value.each)} now` : ''
    return `${inGoal(advice)}, ${money(Math.abs(spendMicros))} ${spendMicros < 0 ? 'less' : 'more'} spent; ${price}${before}`
  }
  const rows = computed(() =>
    (asked.advised?.advice ?? []).map((advice) => ({ advice, words: changeWords(asked.draft, advice.changes), gain: gainOf(advice) }))
  )
  const groups = computed(() =>
    [
      { title: 'Within what it may spend', rows: rows.value.filter(({ advice }) => !advice.takesMore) },
      { title: 'For more money', rows: rows.value.filter(({ advice }) => advice.takesMore) }
    ].filter((group) => group.rows.length > 0)
  )
  const best = computed(
    () =>
      rows.value.find(({ advice: { takesMore, gain } }) => !takesMore && gain >= WORTH * now.value.got) ??
      rows.value.find(({ advice: { takesMore, eachMicros } }) => takesMore && eachMicros !== null && eachMicros <= DEARER * now.value.each)
  )
  return { groups, best }
}
