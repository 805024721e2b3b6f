import type { Traffic } from '../forecast/index.js'

type Priced = Pick<Traffic, 'halfMicros' | 'viewability'>

/** What a property's price is compared with: other traffic of its format, and rows of it by what the property is. */
export interface PriceCompared {
  /** In words: what is bought there, such as `display`. */
  format: string
  own: Priced
  all: Priced
  /** Pages about the same, people of the same country; null where there are none. */
  pages: (Priced & { label: string }) | null
  people: (Priced & { label: string }) | null
}

/** From how many times on something is worth a word. */
const WORTH_SAYING = 1.15
/** Difference of viewability from which it is one, as a share of all. */
const SEEN_APART = 0.06

const times = (ratio: number) => (ratio >= 1 ? `${ratio.toFixed(1)} times` : `${Math.round(100 * ratio)} % of`)
const ratioOf = (one: Priced, all: Priced) => (all.halfMicros > 0 ? one.halfMicros / all.halfMicros : 1)
const isApart = (ratio: number) => ratio >= WORTH_SAYING || ratio <= 1 / WORTH_SAYING

/** Why a property is dear or cheap, as far as comparing rows of the market tells. */
export function whyPrice({ format, own, all, pages, people }: PriceCompared): string {
  const ratio = ratioOf(own, all)
  const reasons = [
    pages && isApart(ratioOf(pages, all)) ? `pages about ${pages.label} cost ${times(ratioOf(pages, all))} what others do` : null,
    people && isApart(ratioOf(people, all)) ? `people in ${people.label} cost ${times(ratioOf(people, all))} what others do` : null,
    Math.abs(own.viewability - all.viewability) >= SEEN_APART
      ? `${Math.round(100 * own.viewability)} % of it is viewable, ${Math.round(100 * all.viewability)} % elsewhere`
      : null
  ].filter((reason) => reason !== null)
  const said = isApart(ratio)
    ? `Its ${format} costs ${times(ratio)} what ${format} does here`
    : `Its ${format} costs about what ${format} does here`
  // What its pages, its people and its viewability lead one to expect; the rest is what the place itself is.
  const expected = (pages ? ratioOf(pages, all) : 1) * (people ? ratioOf(people, all) : 1)
  const rest = ratio / expected
  const unexplained =
    rest <= 0.6 ? ' That is less than they lead one to expect.' : rest >= 1 / 0.6 ? ' That is more than they lead one to expect.' : ''
  return reasons.length === 0 ? `${said}.` : `${said}: ${reasons.join('; ')}.${unexplained}`
}
