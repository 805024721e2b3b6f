import { STREAM, exactExp, fold, finish, normalOf, step } from '../random/index.js'

/** What an ad is made of, each as a hash of its content: the same headline is the same number in every ad. */
export interface AdContent {
  headline?: number
  /** A picture, film or spot. */
  picture?: number
  text?: number
}

/** How an ad is responded to, against the mean: hidden, and the same wherever the ad is shown. */
export interface AdFactors {
  /** How well it is clicked. */
  appeal: number
  /** How well its visitors convert, drawn apart from how it is clicked: the two rank ads differently. */
  pull: number
  /** How well it is watched to its end, as a power of the placement's own share. */
  hold: number
}

/** Spread of each factor's logarithm over ads. */
const SPREADS = { appeal: 0.25, pull: 0.45, hold: 0.12 } as const
const STREAMS = { appeal: STREAM.ad, pull: STREAM.pull, hold: STREAM.hold } as const
/** Shares of that variance, by part; how they go together is a small one. An ad without some of them has it from the others. */
const PARTS = [
  ['headline', 0.35],
  ['picture', 0.4],
  ['text', 0.15]
] as const
const TOGETHER = 0.1

/** Factors of an ad of some content: products of draws by its parts, and a small one by all of them together. */
export function adFactors(seed: number, content: AdContent): AdFactors {
  const own = PARTS.flatMap(([part, share], place) => {
    const hash = content[part]
    return hash === undefined ? [] : [{ place, share, hash }]
  })
  const all = own.reduce((sum, { share }) => sum + share, own.length > 1 ? TOGETHER : 0)
  const factor = (name: keyof AdFactors) => {
    const draw = (...words: number[]) => normalOf(finish(words.reduce(step, fold(seed, STREAMS[name]))))
    let log = 0
    for (const { place, share, hash } of own) log += Math.sqrt(share / all) * draw(place, hash)
    if (own.length > 1) log += Math.sqrt(TOGETHER / all) * draw(PARTS.length, ...own.map(({ hash }) => hash))
    return exactExp(SPREADS[name] * log)
  }
  return { appeal: factor('appeal'), pull: factor('pull'), hold: factor('hold') }
}
