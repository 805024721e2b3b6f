import { computed, ref, watch } from 'vue'
import { CHOOSERS, chooserValue, valueWords, type PhraseOf } from '@tin-harbor/core/buying'
import { DIMENSION_KINDS, type Dimension } from '@tin-harbor/core/dimensions'
import { lifted, type Sentence } from '@tin-harbor/core/forecast'
import { CITIES, COUNTRIES, METROS, REGIONS, cityCode, metroCode } from '@tin-harbor/core/places'
import { isInside } from '@tin-harbor/core/preflight'
import { CATEGORIES, FORMATS, shapesOf } from '@tin-harbor/core/taxonomy'
import { useSurvey } from '@/composables/use-survey'
import { useCounted } from '@/stores/counted'
import { useMarket } from '@/stores/market'
import { useSession } from '@/stores/session'

/** A value that can be chosen, with its traffic a day and the price that wins half of it; both 0 where they are not counted. */
export interface Choice {
  value: string
  words: string
  /** What it is called besides: the name of an address. */
  also: string
  /** The value that it is listed below: a region's country, a category's branch. */
  under: string | null
  aDay: number
  half: number
  isChild: boolean
}

/** Longest list whose values are shown without any traffic. */
const MOST_IDLE = 120
/** Places of a name that are offered at once. */
const MOST_NAMED = 40
const LEAST_LETTERS = 2

const isBranch = (name: string) => CATEGORIES.some((category) => category.name === name && category.branch === category.index)
function branchOf(name: string): string | null {
  const category = CATEGORIES.find((one) => one.name === name)
  return category ? CATEGORIES[category.branch].name : null
}

/** Metro areas and cities that are called like what is typed: there are too many to list. */
function placesNamed(wanted: string): { value: string; words: string }[] {
  const like = (name: string) => name.toLowerCase().includes(wanted)
  return [
    ...METROS.filter((metro) => like(metro.name)).map((metro) => ({
      value: metroCode(metro),
      words: `${metro.name}, metro area, ${COUNTRIES[metro.country].code}`
    })),
    ...CITIES.filter((city) => like(city.name)).map((city) => ({
      value: cityCode(city),
      words: `${city.name}, city, ${REGIONS[city.region].name}`
    }))
  ].slice(0, MOST_NAMED)
}

interface Asked {
  sentence: Sentence
  of: PhraseOf
}

/**
 * The values of a phrase, counted for the rest of its sentence, and those of them that are looked for.
 * @param chosen values that are chosen already
 */
export function usePhraseChoices(asked: Asked, chosen: () => readonly string[]) {
  const market = useMarket()
  const counted = useCounted()
  const session = useSession()
  const { survey, error, isAsking, ask, take } = useSurvey('chooser')
  const typed = ref('')
  const wanted = computed(() => typed.value.trim().toLowerCase())

  function count(): void {
    const by = CHOOSERS[asked.of]?.by
    if (by) void ask({ sentence: asked.sentence, by, without: asked.of, bidMicros: 0 })
  }
  // Values are counted for the rest of the sentence: which of them are chosen changes no count.
  const counts = () => JSON.stringify([session.user?.email, market.run.hour, asked.of, lifted(asked.sentence, asked.of)])
  watch(
    counts,
    () => {
      if (counted.last?.counts === counts()) take(counted.last.survey)
      else count()
    },
    { immediate: true }
  )
  watch(survey, (found) => (counted.last = found && { counts: counts(), survey: found }))

  const isCounted = computed(() => asked.of in CHOOSERS)
  const kind = computed(() => (asked.of === 'format' || asked.of === 'hours' ? null : DIMENSION_KINDS[asked.of]))
  const wordsOf = (value: string) => (asked.of === 'format' ? value : valueWords(asked.of as Dimension, value))
  const idle = (value: string): Choice => ({ value, words: wordsOf(value), also: '', under: null, aDay: 0, half: 0, isChild: false })
  const parentOf = (value: string) =>
    asked.of === 'where' && value.includes('-') ? value.slice(0, 2) : asked.of === 'category' && !isBranch(value) ? branchOf(value) : null

  /** What has no traffic here, or is not counted at all, can be chosen all the same. */
  const listed = computed((): readonly string[] => {
    if (asked.of === 'hours' || asked.of === 'format') return []
    if (asked.of === 'size')
      return (asked.sentence.formats.length === 0 ? FORMATS : asked.sentence.formats).flatMap((format) => shapesOf(format))
    const values = DIMENSION_KINDS[asked.of].values ?? []
    return isCounted.value && values.length > MOST_IDLE ? [] : values
  })
  /** All values, the largest first; regions after their country and categories after their branch. */
  const choices = computed<Choice[]>(() => {
    const found = new Map<string, Choice>()
    for (const { by, rows } of survey.value?.groups ?? []) {
      for (const row of rows) {
        const { label, opportunitiesADay, halfMicros } = row
        const value = chooserValue(asked.of, by, row)
        if (value === null || (found.has(value) && by === 'category')) continue
        const under = parentOf(value)
        found.set(value, {
          value,
          ...(row.code === value ? { words: label, also: label === value ? '' : value } : { words: wordsOf(value), also: '' }),
          under,
          aDay: opportunitiesADay,
          half: halfMicros,
          isChild: under !== null
        })
      }
    }
    for (const value of [...listed.value, ...chosen()]) if (!found.has(value)) found.set(value, idle(value))
    const order = kind.value?.inOrder ? (kind.value.values ?? []) : null
    const all = [...found.values()].sort((a, b) => (order ? order.indexOf(a.value) - order.indexOf(b.value) : b.aDay - a.aDay))
    return all
      .filter((one) => one.under === null || !found.has(one.under))
      .flatMap((one) => [one, ...all.filter((child) => child.under === one.value)])
  })
  /** Places that are not in the list, and whether they are in already. */
  const named = computed<Choice[]>(() => {
    if (asked.of !== 'where' || wanted.value.length < LEAST_LETTERS) return []
    return placesNamed(wanted.value).map(({ value, words }) => {
      const by = chosen().find((other) => isInside(value, other))
      return { ...idle(value), words: by ? `${words} (already in: ${valueWords('where', by)})` : words, isChild: true }
    })
  })
  /** Regions are many: they are listed under a country that is chosen, or when they are searched for. */
  const isShown = (one: Choice) =>
    wanted.value !== ''
      ? `${one.words} ${one.also}`.toLowerCase().includes(wanted.value)
      : !one.isChild || asked.of !== 'where' || chosen().some((value) => value === one.under || parentOf(value) === one.under)
  const shown = computed(() => [
    ...choices.value.filter(isShown),
    ...named.value.filter((one) => !choices.value.some((other) => other.value === one.value))
  ])

  return { survey, error, isAsking, typed, count, isCounted, shown }
}
