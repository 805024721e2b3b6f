import { CHOOSERS, chooserValue, type PhraseOf } from '@tin-harbor/core/buying'
import type { SurveyRowView } from '@tin-harbor/core/contract'
import type { Sentence, SurveyBy } from '@tin-harbor/core/forecast'
import type { Restriction } from '@tin-harbor/core/targeting'
import type { Format } from '@tin-harbor/core/taxonomy'

/** The phrase that rows of a kind are values of; null for rows that no line is restricted by. */
export function phraseFor(by: SurveyBy): PhraseOf | null {
  if (by === 'deal') return null
  return (Object.entries(CHOOSERS).find(([, chooser]) => chooser?.by.includes(by))?.[0] as PhraseOf | undefined) ?? null
}

/** What restrictions call rows of a survey; those that have no name there are left out. */
export function valuesOfRows(by: SurveyBy, rows: readonly Pick<SurveyRowView, 'key' | 'label' | 'code'>[]): string[] {
  const phrase = phraseFor(by)
  return phrase === null || phrase === 'hours' ? [] : rows.map((row) => chooserValue(phrase, by, row)).filter((value) => value !== null)
}

/** A sentence with some rows of a survey as the values of their phrase: these alone, or without them. */
export function restrictedTo(
  sentence: Sentence,
  by: SurveyBy,
  rows: readonly Pick<SurveyRowView, 'key' | 'label' | 'code'>[],
  mode: Restriction['mode']
): Sentence {
  const phrase = phraseFor(by)
  const values = valuesOfRows(by, rows)
  if (phrase === null || phrase === 'hours' || values.length === 0) return sentence
  if (phrase === 'format') return { ...sentence, formats: values as Format[] }
  const { restrictions } = sentence.targeting
  const isIt = (one: Restriction) => one.dimension === phrase && one.mode === mode
  const was = mode === 'exclude' ? (restrictions.find(isIt)?.values ?? []) : []
  const next: Restriction = {
    dimension: phrase,
    mode,
    values: [...new Set([...was, ...values])],
    ...(by === 'category' ? { exact: true } : {})
  }
  return {
    ...sentence,
    targeting: { restrictions: restrictions.some(isIt) ? restrictions.map((one) => (isIt(one) ? next : one)) : [...restrictions, next] }
  }
}
