import { dimensionTitle } from '@tin-harbor/core/dimensions'
import { computed } from 'vue'
import type { LineDraft } from '@tin-harbor/core/buying'
import type { Advised, Breakdowns, MainFigures, Sieve } from '@tin-harbor/core/forecast'
import { bindingSentence } from '@tin-harbor/core/wording'
import { about, perCent } from '@/composables/formats'

interface Said {
  figures: MainFigures | null
  sieve: Sieve | null
  breakdowns: Breakdowns | null
  advised: Advised | null
  draft: LineDraft
}

/** Of a line that the tape says little about, and what share of what it matches the bid is over the floor of. */
const fewWords = ({ tapeWins }: MainFigures, share: number) =>
  tapeWins >= 1.5
    ? `Only ${about(tapeWins)} such impressions of the recorded days would be won: too few to say much.`
    : tapeWins > 0
      ? 'Of the recorded days hardly one such impression would be won: too few to say much.'
      : share === 0
        ? 'The bid is under the floor of all that matches: nothing would be won.'
        : 'Nothing of the recorded days would be won.'

function emptyWords(sieve: Sieve | null): string {
  const left = sieve?.emptiedBy == null ? null : sieve.steps[sieve.emptiedBy]
  if (!left) return 'Nothing in the recorded days matches. Lift a restriction: the sizes and devices may not meet.'
  const { restriction } = left
  const what = typeof restriction === 'string' ? `the ${restriction}` : dimensionTitle(restriction.dimension)
  return `Nothing in the recorded days matches: ${what} leaves nothing of what was left before.`
}

/** What the forecast says in sentences. @param best the best use of the money, once it is known */
export function useForecastRemark(said: Said, best: () => { words: string; gain: string } | null | undefined) {
  /** What binds, and the best use of the money; before that is known, what the main figures say by themselves. */
  const remark = computed(() => {
    const f = said.figures
    if (!f) return ''
    if (f.day.matched.value === 0) return emptyWords(said.sieve)
    if (said.draft.price.bidMicros === null && !said.draft.price.aim) return 'Type a bid to see what it wins.'
    const share = f.day.eligible.value / f.day.matched.value
    const bound = f.tooFew
      ? fewWords(f, share)
      : share < 0.5
        ? `The bid is under the floor of ${perCent(1 - share)} of what matches.`
        : bindingSentence(f)
    const helps = best()
    if (helps) return `${bound} What would help most: ${helps.words}, for ${helps.gain}.`
    if (said.advised === null || f.tooFew) return bound
    return `${bound} No change that was tried buys a twentieth more for the same money, or more at about its price.`
  })

  /** Our other lines that buy what this one would win. */
  const taken = computed(() => {
    const lines = (said.breakdowns?.taken ?? []).filter(({ wins }) => wins >= 1)
    if (lines.length === 0) return null
    const [first, ...others] = lines.map(({ line, wins }) => ({ name: `L-${line}`, wins: about(wins) }))
    return [`${first.name} takes ${first.wins} of these a day for more`, ...others.map(({ name, wins }) => `${name} ${wins}`)].join(', ')
  })

  const flightTitle = computed(() => {
    const f = said.figures?.flight
    if (!f) return 'Flight'
    if (f.open) return `Next ${f.replayedDays} days of an open flight`
    const more = f.days > f.replayedDays ? `; people of the first ${f.replayedDays}` : ''
    return `${f.days === 1 ? 'The last day' : `${f.days} days`} of the flight${more}`
  })

  return { remark, taken, flightTitle }
}
