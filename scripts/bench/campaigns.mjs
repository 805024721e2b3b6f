import { inProject } from '../project.mjs'
import { quantile, report, round } from './measure.mjs'
import { DAY, START, traders } from './market.mjs'

const ROUNDS = 5
const CAMPAIGNS = 50
const EACH = 5
/** What a campaign may spend, of what its lines may together: shares are worked out where money is short. */
const SHORT = 0.6

/** An hour of the market with fifty campaigns whose money is shared, against the same lines in one campaign that has enough. */
export async function benchCampaigns() {
  /** @type {any} */
  const core = {}
  for (const part of ['market', 'exchange', 'places', 'targeting', 'time', 'taxonomy'])
    Object.assign(core, await import(inProject(`core/dist/${part}/index.js`)))
  const world = core.makeWorld(core.FULL)
  const made = core.makeDay(world, DAY)
  const alone = traders(core, CAMPAIGNS * EACH)
  const shared = alone.map((line, n) => ({ ...line, campaign: 1 + (n % CAMPAIGNS) }))
  const campaigns = Array.from({ length: CAMPAIGNS }, (_, n) => {
    const own = shared.filter((line) => line.campaign === n + 1)
    const dailyMicros = Math.round(SHORT * own.reduce((sum, { limits }) => sum + limits.dailyMicros, 0))
    return { campaign: n + 1, zone: 'UTC', startHour: 0, endHour: null, limits: { ...core.NO_LIMITS, dailyMicros } }
  })
  const free = [{ campaign: 1, zone: 'UTC', startHour: 0, endHour: null, limits: core.NO_LIMITS }]
  /** @param {readonly any[]} lines @param {readonly any[]} owners */
  const hours = (lines, owners) => {
    const opening = { hour: START, balanceMicros: 1e13, lines: new Map(), campaigns: new Map(), exposures: new core.ExposureBook() }
    const exchange = new core.Exchange(world, { publication: 1, lines, campaigns: owners }, opening, () => made)
    return Array.from({ length: 24 }, () => {
      const began = performance.now()
      exchange.runHour()
      return performance.now() - began
    })
  }
  /** @type {{ shared: number[], free: number[] }} */
  const times = { shared: [], free: [] }
  for (let n = 0; n < ROUNDS; n++) {
    times.shared.push(...hours(shared, campaigns))
    times.free.push(...hours(alone, free))
  }
  const figures = {
    hourMs: round(quantile(times.shared, 0.5)),
    hourP95Ms: round(quantile(times.shared, 0.95)),
    againstOneCampaign: round(quantile(times.shared, 0.5) / quantile(times.free, 0.5))
  }
  console.log(
    `${CAMPAIGNS} campaigns of ${EACH} lines: an hour of the market in ${figures.hourMs} ms (95 %: ${figures.hourP95Ms}), ${figures.againstOneCampaign} times what one campaign with money enough takes`
  )
  report('campaigns', figures)
}
