import { blankQuestion } from '../blank-question.mjs'

/**
 * Lines whose money mostly binds, run a week as they were set and the same week with the first advice taken: whether the gain has the sign
 * that was said, and is as large.
 * @param {{ core: any, world: any, run: Function, line: Function, seeded: (seed: number) => () => number, round: (n:
 * number) => number }} tools
 * @param {number} wanted lines
 */
export function adviceTruth({ core, world, run, line, seeded, round }, wanted) {
  const START = 60 * 24
  const DAYS = 7
  const catalogue = { inventory: world.inventory, profiles: world.profiles, measures: core.publishMeasures(world.seed, world.inventory) }
  const market = core.forecastMarket(catalogue, core.makeBenchmarks(world.inventory))
  const tape = core.buildTape(world, START / 24 - 1)
  const random = seeded(8600)
  const below = (/** @type {number} */ n) => Math.floor(random() * n)
  const wins = (/** @type {any} */ rules) => {
    let total = 0
    run(rules, DAYS * 24, (/** @type {any} */ facts) => (total += facts.wins))
    return total
  }
  /** @type {{ said: number, was: number, kind: string }[]} */
  const found = []
  /** @type {Record<string, number>} */
  const kinds = {}
  const nameOf = (/** @type {any} */ { changes }) => changes.map((/** @type {any} */ { kind }) => kind).join(' and ')
  for (let tries = 0; found.length < wanted && tries < 20 * wanted; tries++) {
    const format = core.FORMATS[below(4)]
    const countries = [...new Set(Array.from({ length: 1 + below(3) }, () => core.COUNTRIES[below(24)].code))]
    const restrictions = [
      { dimension: 'where', mode: 'include', values: countries },
      ...(below(2) ? [{ dimension: 'device', mode: 'include', values: [['phone', 'desktop'][below(2)]] }] : []),
      ...(below(2) ? [{ dimension: 'age', mode: 'include', values: ['25-34', '35-44'] }] : [])
    ]
    const price = { model: 'CPM', bidMicros: (800 + below(6000)) * 1000, maxMicros: null }
    const caps = below(2) ? [{ times: 1 + below(3), hours: 24 }] : []
    const limits = { ...core.NO_LIMITS, dailyMicros: (200 + below(4000)) * 1000 }
    const rules = line(format, { targeting: { restrictions }, price, caps, limits, pacing: 'even', endHour: START + 28 * 24 })
    const question = blankQuestion(core, {
      targeting: rules.targeting,
      shapes: rules.shapes,
      price,
      caps,
      limits,
      startHour: START,
      endHour: START + 28 * 24,
      nowHour: START
    })
    const parts = [...core.answer(question, 'wins', tape, market, () => false)]
    const main = parts.find((part) => part.part === 'figures')?.figures
    const offered = parts.find((part) => part.part === 'advice')?.advice ?? []
    if (!main || main.tooFew || offered.length === 0) continue
    // Of each kind a part, so that not all are bids.
    const advice = offered.find((/** @type {any} */ one) => (kinds[nameOf(one)] ?? 0) < wanted / 2)
    if (!advice) continue
    const after = core.changed(question, ...advice.changes)
    const before = wins(rules)
    const live = after.follow ? core.forLive(after, tape, market, () => false) : null
    const { targeting, price: priced, caps: capped, limits: limited, pacing } = after
    const traffic = pacing === 'traffic' ? core.forLive(after, tape, market, () => false).traffic : undefined
    const taken = { targeting, price: priced, caps: capped, limits: limited, pacing, traffic, follow: live?.landscape ?? null }
    const was = wins({ ...rules, ...taken }) - before
    kinds[nameOf(advice)] = (kinds[nameOf(advice)] ?? 0) + 1
    found.push({ kind: nameOf(advice), said: advice.wins * DAYS, was })
    console.log(
      `change ${String(found.length).padStart(2)} ${format}, ${nameOf(advice)}: ${Math.round(advice.wins * DAYS)} more wins said, ${was} more run, of ${before}`
    )
  }
  const right = found.filter(({ said, was }) => Math.sign(said) === Math.sign(was)).length
  const ratios = found.map(({ said, was }) => was / said).sort((a, b) => a - b)
  console.log(
    `${right} of ${found.length} of the sign said; median gain ${round(100 * ratios[Math.floor(ratios.length / 2)])} % of what was said`
  )
  return { changes: found.length, rightSign: right, medianShare: round(100 * ratios[Math.floor(ratios.length / 2)]) }
}
