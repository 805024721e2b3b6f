import { inProject } from '../project.mjs'
import { interleave, quantile, report, round } from './measure.mjs'

const ROUNDS = 25

/**
 * The question a plain pass answers as well: over each of the two weeks of the tape, how much matches, is won, is spent
 * and is reached, with a rolling cap. No tables by region, no skipping of people: every row is looked at.
 *
 * @param {any} tape @param {any} world @param {any} core @param {any} question
 */
function plainPass(tape, world, core, question) {
  const { REGIONS, COUNTRIES } = core.places
  const { DEVICE_TYPES, DISPLAY_SIZES } = core.taxonomy
  const { SOURCES } = core.market
  const wanted = Object.fromEntries(question.targeting.restrictions.map((/** @type {any} */ r) => [r.dimension, new Set(r.values)]))
  const bid = Math.floor(question.price.bidMicros / 1000)
  const { region, device, placement, source, floor, rival, person } = tape.rows
  const result = { matched: 0, wins: 0, spend: 0, reach: 0 }
  for (let week = 0; week < 2; week++) {
    const times = new Map()
    for (let i = 0; i < tape.rowCount; i++) {
      if (Math.floor(tape.minute[i] / 10080) !== week) continue
      if (wanted.where && !wanted.where.has(COUNTRIES[REGIONS[region[i]].country].code)) continue
      if (wanted.device && !wanted.device.has(DEVICE_TYPES[device[i]])) continue
      if (wanted.size && !wanted.size.has(DISPLAY_SIZES[world.inventory.placements[placement[i]].size])) continue
      result.matched++
      if (bid < floor[i] || bid <= rival[i]) continue
      let seen = times.get(person[i])
      if (!seen) times.set(person[i], (seen = []))
      if (question.caps.some((/** @type {any} */ cap) => seen.length >= cap.times && tape.minute[i] - seen[seen.length - cap.times] < cap.hours * 60)) continue
      seen.push(tape.minute[i])
      result.wins++
      result.spend += SOURCES[source[i]].auction === 'first price' ? bid : Math.max(floor[i], rival[i])
    }
    for (const seen of times.values()) if (seen.length > 0) result.reach++
  }
  return result
}

/** The same by our own parts. @param {any} tape @param {any} world @param {any} core @param {any} question */
function ownPass(tape, world, core, question) {
  const never = () => false
  const bid = Math.floor(question.price.bidMicros / 1000)
  const scan = core.forecast.scanTape(tape, core.targeting.compileTargeting(question.targeting, world.inventory), bid, never)
  const weeks = [0, 1].map((week) => core.forecast.replay(scan, tape, bid, question.caps, core.forecast.weekTimeline(tape, week, 0), never))
  const sum = (/** @type {string} */ key) => weeks[0][key] + weeks[1][key]
  return { matched: scan.matched, wins: sum('wins'), spend: sum('spendMicros'), reach: sum('reach') }
}

export async function benchForecast() {
  /** @type {any} */
  const core = {}
  for (const part of ['market', 'tape', 'forecast', 'targeting', 'places', 'taxonomy']) core[part] = await import(inProject(`core/dist/${part}/index.js`))
  const world = core.market.makeWorld(core.market.TENTH)
  const tape = core.tape.buildTape(world, 59)
  const include = (/** @type {string} */ dimension, /** @type {string[]} */ values) => ({ dimension, mode: 'include', values })
  const money = { dailyMicros: null, totalMicros: null, pacing: 'even', campaignDailyMicros: null, campaignTotalMicros: null }
  const base = { price: { model: 'CPM', bidMicros: 1_500_000, maxMicros: null }, caps: [], money, matesDemandMicros: 0, zone: 'UTC', startHour: 1440, endHour: 1440 + 168, nowHour: 1440 }
  const narrow = { ...base, targeting: { restrictions: [include('where', ['PT', 'IE']), include('device', ['phone']), include('size', ['300x250', '320x50', '320x100'])] }, caps: [{ times: 3, hours: 24 }] }
  const wide = { ...base, targeting: { restrictions: [] } }
  const capped = { ...wide, caps: [{ times: 3, hours: 24 }] }
  const budget = { ...narrow, money: { ...money, dailyMicros: 1_000_000 } }
  const questions = { narrow, wide, capped }
  for (const question of Object.values(questions)) {
    const [plain, own] = [plainPass(tape, world, core, question), ownPass(tape, world, core, question)]
    if (JSON.stringify(plain) !== JSON.stringify(own)) throw new Error(`The answers differ: ${JSON.stringify(plain)} and ${JSON.stringify(own)}`)
  }
  /** @type {Record<string, () => unknown>} */
  const tasks = { money: () => core.forecast.forecast(budget, tape, world.inventory) }
  for (const [name, question] of Object.entries(questions)) {
    tasks[name] = () => core.forecast.forecast(question, tape, world.inventory)
    tasks[`${name}Own`] = () => ownPass(tape, world, core, question)
    tasks[`${name}Plain`] = () => plainPass(tape, world, core, question)
  }
  const times = interleave(tasks, ROUNDS)
  const of = (/** @type {string} */ name) => ({ medianMs: round(quantile(times[name], 0.5)), p95Ms: round(quantile(times[name], 0.95)), plainMs: round(quantile(times[`${name}Plain`], 0.5)) })
  const ratio = (/** @type {string} */ name) => round(quantile(times[`${name}Plain`], 0.5) / quantile(times[`${name}Own`], 0.5))
  const matched = ownPass(tape, world, core, narrow).matched
  report('forecast', {
    rows: tape.rowCount, narrowShare: round((100 * matched) / tape.rowCount), narrow: of('narrow'), wide: of('wide'), capped: of('capped'),
    ratioPlainNarrow: ratio('narrow'), ratioPlainWide: ratio('wide'), ratioPlainCapped: ratio('capped'), moneyMs: round(quantile(times.money, 0.5))
  })
}
