import { POSTAL_COUNTRY } from '../places/index.js'
import { DEVICE_TYPE, PERSON_WORDS, postalOf } from '../market/index.js'
import { MEAN_PAGES, conversionChance, stayChance, viewsAt } from '../response/index.js'
import { AIM_RANGE, type Aim } from '../exchange/index.js'
import { learnedChance } from './learned-chance.js'
import { mostBase, type Play } from './play.js'
import { ratesOf } from './question.js'
import { replay } from './replay.js'
import { grown, sumOf, type Replay } from './totals.js'
import type { Timeline } from './timeline.js'

/** Corrections of an aim's bids that are tried, as the exchange bounds them. */
const CORRECTIONS = Array.from({ length: 11 }, (_, n) => (AIM_RANGE[0] / 1000) * (AIM_RANGE[1] / AIM_RANGE[0]) ** (n / 10))
/** Times that the stretch between two of them is halved. */
const HALVINGS = 4
/** Share of what budgets allow that bids which are lowered to them come to spend: the correction moves by the hour. */
const SPENT = 0.97

/** Chance of an aim's event of each match, in millionths, as the line has learned it. */
function chancesOf({ question, matched, tape, market }: Play, event: Aim['event']): Uint32Array {
  const { people, starts, rows, visits, group, minute } = matched
  const { benchmarks } = market
  const views = viewsAt(benchmarks, question.viewPoint)
  const rates = ratesOf(question)
  const learned = learnedChance(question.history?.learned ?? null, question, tape)
  const chances = new Uint32Array(rows.length)
  for (let p = 0; p < people.length; p++) {
    const country = POSTAL_COUNTRY[postalOf(tape.words[people[p] * PERSON_WORDS])]
    for (let m = starts[p]; m < starts[p + 1]; m++) {
      const type = DEVICE_TYPE[tape.rows.device[rows[m]]]
      const average =
        event === 'view'
          ? views[group[m]]
          : event === 'click'
            ? visits[m]
            : event === 'stay'
              ? stayChance(benchmarks, visits[m], group[m], type)
              : event === 'page'
                ? stayChance(benchmarks, visits[m], group[m], type) * MEAN_PAGES
                : event === 'person'
                  ? 1e6
                  : conversionChance(benchmarks, rates, visits[m], group[m], type, country)
      chances[m] = learned ? learned(average, tape.rows.path[rows[m]], type, minute[m]) : Math.min(1e6, Math.floor(average))
    }
  }
  return chances
}

/** What one event is worth to an aim, micros. @param value of a conversion, micros */
const worthOf = ({ event, micros }: Aim, value: number) => (event === 'value' ? (value * 1000) / micros : micros)

/** What is bought at a correction, in the sample. */
interface Tried {
  weeks: readonly Replay[]
  spend: number
  events: number
}

/** What a line with an aim would bid: without budgets, and under them. */
export interface AimPlays {
  /** What one event is worth to it, micros, before any correction. */
  worth: number
  free: Play
  /**
   * @param allowed what budgets let the two weeks spend, in the sample
   * @param spent the same of any replays of them
   */
  under: (allowed: number, spent: (weeks: readonly Replay[]) => number) => Play
}

/**
 * The bids of an aim: the correction at which what events cost is the aim; and under budgets, where that is less, the one that spends
 * the plan.
 * @param mostRows from which only every n-th person is asked
 */
export function aimPlays(play: Play, aim: Aim, weeks: readonly Timeline[], mostRows: number, cancelled: () => boolean): AimPlays {
  const chances = chancesOf(play, aim.event)
  const most = mostBase(play)
  const worth = worthOf(aim, play.question.conversionMicros ?? 0)
  const every = Math.max(1, Math.ceil(play.matched.rows.length / mostRows))
  const corrected = (correction: number): Play => ({ ...play, base: most, chances, worth: worth * correction })
  const known = new Map<number, Tried>()
  const tryAt = (correction: number): Tried => {
    let tried = known.get(correction)
    if (!tried) {
      const parts = weeks.map((week) => grown(replay(corrected(correction), week, { full: false, every }, cancelled), every))
      tried = {
        weeks: parts,
        spend: parts.reduce((sum, part) => sum + sumOf(part.byGroup.spend), 0),
        events: parts.reduce((sum, part) => sum + (aim.event === 'person' ? part.reach : part.aimed / 1e6), 0)
      }
      known.set(correction, tried)
    }
    return tried
  }
  // Spend and what an event costs rise with the correction: halved from where one that was tried is the first over what is wanted.
  const upTo = (over: (tried: Tried) => number) => {
    const above = CORRECTIONS.findIndex((correction) => over(tryAt(correction)) > 1)
    if (above < 0) return CORRECTIONS[CORRECTIONS.length - 1]
    if (above === 0) return CORRECTIONS[0]
    let [low, high] = [CORRECTIONS[above - 1], CORRECTIONS[above]]
    for (let n = 0; n < HALVINGS; n++) {
      const middle = Math.sqrt(low * high)
      if (over(tryAt(middle)) > 1) high = middle
      else low = middle
    }
    return Math.sqrt(low * high)
  }
  const free = upTo(({ spend, events }) => (events > 0 ? spend / (events * worth) : 0))
  return {
    worth,
    free: corrected(free),
    under: (allowed, spent) =>
      corrected(
        Math.min(
          free,
          upTo((tried) => spent(tried.weeks) / (allowed * SPENT))
        )
      )
  }
}
