import { computed, watch, type ComputedRef, type Ref } from 'vue'
import type { PropertyView } from '@tin-harbor/core/contract'
import type { Sentence } from '@tin-harbor/core/forecast'
import { withValues, type Targeting } from '@tin-harbor/core/targeting'
import { FORMATS, SHAPES, SHAPE_FORMAT, isFilm } from '@tin-harbor/core/taxonomy'
import { whyPrice } from '@tin-harbor/core/wording'
import { useSurvey } from '@/composables/use-survey'

/** Why a property is dear or cheap, in a sentence; null until its rows and the market's are counted, and where there is no traffic. */
export function useWhyPrice(
  property: Ref<PropertyView | null>,
  sentence: Ref<Sentence>,
  aDay: (placement: string) => number
): ComputedRef<string | null> {
  const own = useSurvey('own-format')
  const all = useSurvey('all-of-format')
  /** The format that most of its traffic is of: prices of others cannot be compared with it. */
  const format = computed(() => {
    const sums = FORMATS.map(() => 0)
    for (const { placement, size } of property.value?.placements ?? [])
      sums[SHAPE_FORMAT[(SHAPES as readonly string[]).indexOf(size)]] += aDay(placement)
    const most = Math.max(...sums)
    return most > 0 ? FORMATS[sums.indexOf(most)] : null
  })
  /** Television is compared with television and other video with other video: one costs three times the other. */
  const alike = computed(() => {
    const isChannel = property.value?.class === 'channel'
    return isFilm(format.value)
      ? {
          name: isChannel ? 'television' : 'web and app video',
          narrowed: (targeting: Targeting) =>
            targeting.restrictions.some(({ dimension }) => dimension === 'class')
              ? targeting
              : withValues(targeting, 'class', isChannel ? 'include' : 'exclude', ['channel'])
        }
      : null
  })
  watch(format, () => {
    if (format.value === null || !property.value) return
    const asked: Sentence = { ...sentence.value, formats: [format.value] }
    const here = withValues(asked.targeting, 'property', 'include', [property.value.property])
    void own.ask({ sentence: { ...asked, targeting: here }, by: [], without: null, bidMicros: 0 })
    void all.ask({
      sentence: { ...asked, targeting: alike.value?.narrowed(asked.targeting) ?? asked.targeting },
      by: ['category', 'country'],
      without: null,
      bidMicros: 0
    })
  })
  return computed(() => {
    if (!property.value || format.value === null || !own.survey.value || !all.survey.value) return null
    const { category, home } = property.value
    const rowOf = (by: string, label: string) =>
      all.survey.value?.groups.find((group) => group.by === by)?.rows.find((row) => row.label === label) ?? null
    return whyPrice({
      format: alike.value?.name ?? format.value,
      own: own.survey.value.total,
      all: all.survey.value.total,
      pages: category === null ? null : rowOf('category', category),
      people: rowOf('country', home)
    })
  })
}
