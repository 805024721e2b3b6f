import { QueryTypes } from 'sequelize'
import type { ForecastPart, MainFigures } from '@tin-harbor/core/forecast'
import { bindingSentence } from '@tin-harbor/core/wording'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { FORMATS, SHAPE_FORMAT } from '@tin-harbor/core/taxonomy'
import { localDayOf, startOfLocalDay, zoneIndex } from '@tin-harbor/core/time'
import { GrantedDeal } from '../src/deals/deal-model.js'
import { LineRevision } from '../src/lines/line-model.js'
import { readMarket } from '../src/going-live/publications.js'
import { READER, TRADER, campaignDraft, lineDraft, newToken, readyLine, testServer, type Ask, type TestServer } from './support/server.js'

let server: TestServer
let ask: Ask

beforeAll(async () => {
  server = await testServer('records')
  ask = await server.as(TRADER)
})
afterAll(() => server.close())

const rows = <T extends object>(sql: string) => server.deps.sequelize.query<T>(sql, { type: QueryTypes.SELECT })
const DAYS = 'from=2026-02-16&to=2026-03-15'

async function run(body: object): Promise<void> {
  expect((await ask('POST', '/market/run', body)).status).toBe(204)
  await server.deps.runner.idle()
}

/** Puts a line of any format live with a creative made of parts. */
async function liveOf(over: Parameters<typeof lineDraft>[0], advertiser = 1): Promise<number> {
  const campaignId = (
    await ask('POST', `/advertisers/${advertiser}/campaigns`, campaignDraft({ name: `For ${over?.name}`, goal: 'conversions' }))
  ).body.id as number
  const { body: line } = await ask(
    'POST',
    `/campaigns/${campaignId}/lines`,
    lineDraft({
      targeting: { restrictions: [{ dimension: 'where', mode: 'include', values: ['US', 'IN', 'GB', 'DE', 'BR'] }] },
      budget: { dailyMicros: 2_000_000, totalMicros: null },
      // A page of its own advertiser: another's is refused.
      landing: advertiser === 1 ? 'https://nightjar.example/winter' : lineDraft().landing,
      ...over
    })
  )
  const choices = (await ask('GET', `/lines/${line.id}/made-creatives`)).body as { id: number }[]
  for (const { id } of choices) expect((await ask('POST', `/lines/${line.id}/ads`, { creatives: [id] })).status).toBe(200)
  const { body: view } = await ask('GET', `/lines/${line.id}`)
  const live = await ask('POST', `/lines/${line.id}/live`, { version: view.version, token: newToken() })
  expect([live.status, live.body.state, live.body.issues]).toEqual([200, 'live', undefined])
  return line.id as number
}

describe('lines of all formats and prices, from the draft to results', () => {
  it('are bought, billed by what happened, and told apart in reports', async () => {
    const lines = {
      native: await liveOf({ name: 'Native clicks', format: 'native', price: { model: 'CPC', bidMicros: 400_000, maxMicros: null } }),
      video: await liveOf({
        name: 'Video views',
        format: 'video',
        price: { model: 'view', bidMicros: 14_000, maxMicros: null },
        rotation: 'learning'
      }),
      audio: await liveOf({
        name: 'Audio',
        format: 'audio',
        price: { model: 'CPM', bidMicros: null, maxMicros: 9_000_000, aim: { event: 'view', micros: 8000 } }
      }),
      pop: await liveOf({ name: 'Visits', format: 'pop', price: { model: 'visit', bidMicros: 1500, maxMicros: null } }, 3)
    }
    // Two lines whose first deals are different ones.
    const deals = (await GrantedDeal.findAll({ order: [['id', 'ASC']] }))
      .filter((deal) =>
        deal.placements.some(
          (placement) => SHAPE_FORMAT[server.deps.catalogue.inventory.placements[placement].shape] === FORMATS.indexOf('native')
        )
      )
      .slice(0, 2)
    expect(deals.length).toBe(2)
    for (const { id, name, priceMicros } of deals)
      await liveOf({
        name: `By ${name}`,
        format: 'native',
        price: { model: 'CPM', bidMicros: priceMicros + 5_000_000, maxMicros: null },
        buys: { open: false, deals: [id] }
      })
    await run({ hours: 30 })
    const { body: report } = await ask('GET', `/reports?by=line&${DAYS}`)
    const { body: byDeal } = await ask('GET', `/reports?by=deal&${DAYS}`)
    for (const { id, name } of deals) {
      const bought = report.rows.find((row: { label: string }) => row.label === `By ${name}`)
      expect(byDeal.rows.find((row: { key: number }) => row.key === id)).toMatchObject({ label: name, wins: bought.wins })
      expect(bought.wins).toBeGreaterThan(0)
    }
    expect(byDeal.rows.find((row: { key: number }) => row.key === 0).label).toBe('the open market')
    const rowOf = (line: number) => report.rows.find((row: { key: number }) => row.key === line)
    for (const line of Object.values(lines)) expect(rowOf(line).wins).toBeGreaterThan(10)
    expect(rowOf(lines.native).label).toBe('Native clicks')
    expect(rowOf(lines.native).spendMicros).toBeLessThanOrEqual(rowOf(lines.native).clicks * 400_000)
    expect(rowOf(lines.video).spendMicros).toBeLessThanOrEqual(rowOf(lines.video).views * 14_000)
    const { reached, views } = rowOf(lines.video)
    expect(reached[3]).toBe(views)
    expect([...reached].sort((a: number, b: number) => b - a)).toEqual(reached)
    expect(rowOf(lines.video).unmutes).toBeGreaterThan(0)
    expect(rowOf(lines.pop).visits).toBeLessThan(rowOf(lines.pop).wins)
    const [{ wins, micros }] = await rows<{ wins: number; micros: number }>(
      'SELECT SUM(wins) AS wins, SUM(spend_micros) AS micros FROM line_hour'
    )
    expect([report.total.wins, report.total.spendMicros]).toEqual([Number(wins), Number(micros)])
  })

  it('learn of pages and of new people too, and their pages and slips say so', async () => {
    for (const [event, words] of [
      ['page', 'pages'],
      ['person', 'new people']
    ] as const) {
      const price = { model: 'CPM' as const, bidMicros: null, maxMicros: 9_000_000, aim: { event, micros: 8000 } }
      const id = await liveOf({ name: `Aim at ${words}`, format: 'native', price })
      const { status, body } = await ask('GET', `/lines/${id}`)
      expect([status, body.learning]).toEqual([200, expect.stringContaining(`0 of 50 ${words} gathered`)])
      const draft = { ...body.draft, price: { model: 'CPM', bidMicros: 900_000, maxMicros: null } }
      expect((await ask('PUT', `/lines/${id}`, { version: body.version, line: draft })).status).toBe(200)
      const { staged } = (await ask('GET', '/slips')).body as { staged: { line: number; forgets: string }[] }
      expect(staged.find(({ line }) => line === id)?.forgets).toBe(`what ${words} taught its bids`)
    }
  })

  it('refuses a creative of another format, one twice, and one of somebody else', async () => {
    const { lineId } = await readyLine(ask)
    const foreign = await rows<{ id: number }>("SELECT id FROM made_creative WHERE advertiser_id = 1 AND kind = 'video'")
    expect((await ask('POST', `/lines/${lineId}/ads`, { creatives: [foreign[0].id] })).body.issues[0]).toMatchObject({
      field: 'creatives',
      message: 'Not a creative of this advertiser.'
    })
    const own = await rows<{ id: number; kind: string }>(
      "SELECT id, kind FROM made_creative WHERE advertiser_id = 3 AND kind IN ('markup', 'pop page') ORDER BY kind"
    )
    expect((await ask('POST', `/lines/${lineId}/ads`, { creatives: [own[1].id] })).body.issues[0].message).toContain(
      'this line buys display'
    )
    expect((await ask('POST', `/lines/${lineId}/ads`, { creatives: [own[0].id] })).status).toBe(200)
    expect((await ask('POST', `/lines/${lineId}/ads`, { creatives: [own[0].id] })).body.issues[0].message).toContain('on this line already')
    expect((await ask('POST', `/lines/${lineId}/ads`, {})).body.issues[0].field).toBe('creatives')
  })

  it('an aim needs a maximum, may be paid by the event, and needs for conversions a tracker', async () => {
    const campaignId = (await ask('POST', '/advertisers/3/campaigns', campaignDraft())).body.id as number
    const post = async (price: object, over: object = {}) =>
      (
        await ask('POST', `/campaigns/${campaignId}/lines`, {
          ...lineDraft(),
          ...over,
          price: { model: 'CPM', bidMicros: null, maxMicros: null, ...price }
        })
      ).body.issues?.[0]
    expect(await post({ aim: { event: 'click', micros: 300_000 } })).toMatchObject({ field: 'price.maxMicros' })
    expect(await post({ model: 'CPC', bidMicros: 90_000, maxMicros: 100_000, aim: { event: 'stay', micros: 300_000 } })).toBeUndefined()
    expect(await post({ model: 'CPC', bidMicros: null, aim: { event: 'stay', micros: 300_000 } })).toMatchObject({
      field: 'price.maxMicros'
    })
    expect(await post({ bidMicros: 900_000, follow: true, maxMicros: 1_000_000, aim: { event: 'click', micros: 300_000 } })).toMatchObject({
      field: 'price.follow'
    })
    expect(await post({ maxMicros: 1_000_000, aim: { event: 'click', micros: null } })).toMatchObject({ field: 'price.aim.micros' })
  })
})

describe('reports', () => {
  it('add up to one total by every dimension, but for audiences', async () => {
    const { body: whole } = await ask('GET', `/reports?by=line&${DAYS}`)
    for (const by of [
      'placement',
      'country',
      'city',
      'age',
      'device',
      'moment',
      'day',
      'hour',
      'source',
      'nth exposure',
      'category',
      'robots',
      'ad',
      'grade'
    ]) {
      const { body } = await ask('GET', `/reports?by=${encodeURIComponent(by)}&${DAYS}`)
      expect(body.total.wins, by).toBe(whole.total.wins)
      for (const measure of ['wins', 'clicks', 'conversions', 'spendMicros', 'assists', 'valueMicros'])
        expect(
          body.rows.reduce((sum: number, row: Record<string, number>) => sum + row[measure], 0),
          `${by} ${measure}`
        ).toBe(whole.total[measure])
      expect(body.rows.every((row: { label: string; people: number; wins: number }) => row.label !== '' && row.people <= row.wins)).toBe(
        true
      )
    }
    const { body: audiences } = await ask('GET', `/reports?by=audience&${DAYS}`)
    expect(audiences.rows.reduce((sum: number, row: { wins: number }) => sum + row.wins, 0)).toBeGreaterThan(whole.total.wins)
  })

  it('count what the log says: people once, and conversions that come inside the window', async () => {
    const { body: line } = await ask('GET', `/reports?by=day&line=1001&${DAYS}`)
    const [{ wins }] = await rows<{ wins: number }>('SELECT SUM(wins) AS wins FROM line_hour WHERE line_id = 1001')
    expect(line.total.wins).toBe(Number(wins))
    expect(line.total.people).toBeLessThanOrEqual(line.total.wins)
    const within = async (hours: number) =>
      (await ask('GET', `/reports?by=line&windowHours=${hours}&${DAYS}`)).body.total.conversions as number
    const [{ conversions }] = await rows<{ conversions: number }>('SELECT SUM(conversions) AS conversions FROM line_hour')
    expect(await within(720)).toBe(Number(conversions))
    expect(await within(1)).toBeLessThanOrEqual(await within(24))
  })

  it('are of the advertisers that the user sees', async () => {
    const rui = await server.as(READER)
    const { body } = await rui('GET', `/reports?by=line&${DAYS}`)
    expect(body.rows.length).toBeGreaterThan(0)
    const seen = await rows<{ id: number }>('SELECT l.id FROM line l JOIN campaign c ON c.id = l.campaign_id WHERE c.advertiser_id = 3')
    for (const row of body.rows) expect(seen.map(({ id }) => id)).not.toContain(row.key)
    expect((await rui('GET', `/reports?by=line&line=${seen[0].id}&${DAYS}`)).status).toBe(403)
  })

  it('say what is wrong with a question', async () => {
    const issue = async (query: string) => (await ask('GET', `/reports?${query}`)).body.issues[0]
    expect(await issue('by=colour&from=2026-03-01&to=2026-03-02')).toMatchObject({ field: 'by' })
    expect(await issue('by=day&from=2026-03-09&to=2026-03-02')).toMatchObject({ field: 'to', message: 'The last day is before the first.' })
    expect(await issue('by=day&from=2026-02-30&to=2026-03-02')).toMatchObject({ field: 'from' })
    expect(await issue('by=day&windowHours=0&from=2026-03-01&to=2026-03-02')).toMatchObject({ field: 'windowHours' })
  })
})

describe('shop visits', () => {
  it('are told beside what was shown, for an advertiser with shops, and of whole days that are over', async () => {
    const { body } = await ask('GET', '/campaigns/1/shop-visits?from=2026-02-16&to=2026-03-10')
    expect(body.visits.shops).toEqual(['Nightjar Berlin', 'Nightjar Hamburg'])
    expect(body.visits.panel).toBeGreaterThan(body.visits.exposed)
    const days = Math.floor((await rows<{ hour: number }>('SELECT hour FROM market_state'))[0].hour / 24) - 46
    expect(body.visits.otherDays + body.visits.exposedDays).toBe(body.visits.panel * days)
    expect((await ask('GET', '/campaigns/1/shop-visits?from=2026-02-30&to=2026-03-01')).status).toBe(422)
    expect((await ask('GET', '/campaigns/999/shop-visits?from=2026-02-16&to=2026-03-01')).status).toBe(404)
  })
})

describe('the trace', () => {
  it('falls from all opportunities to the wins of the log, step by step', async () => {
    const { body } = await ask('GET', '/lines/1001/trace')
    const { stair, sieve, counts } = body
    for (let n = 1; n < sieve.length; n++) expect(sieve[n].left).toBeLessThanOrEqual(sieve[n - 1].left)
    for (const { left, low, high } of sieve) expect([low <= left, left <= high, low < high]).toEqual([true, true, true])
    for (let n = 1; n < stair.length; n++) expect(stair[n].left + stair[n].lost).toBe(stair[n - 1].left)
    expect(stair.at(-1).left).toBe(counts.won)
    const [{ n }] = await rows<{ n: number }>(
      `SELECT SUM(wins) AS n FROM line_hour WHERE line_id = 1001 AND hour >= ${body.from} AND hour < ${body.to}`
    )
    expect(counts.won).toBe(Number(n))
    // What the tape counts of the restrictions and what the hours matched are the same traffic.
    expect(Math.abs(sieve.at(-1).left / stair[0].left - 1)).toBeLessThan(0.25)
    expect(body.short.reduce((sum: number, one: number) => sum + one, 0)).toBe(counts.outbid + counts.below_floor)
    expect(body.losses[0].lost).toBeGreaterThan(0)
    // What binds and what helps is what the line's own page says.
    const { draft, campaignId } = (await ask('GET', '/lines/1001')).body
    const own = (await ask('POST', '/forecast', { page: 'trace', number: 1, campaignId, lineId: 1001, line: draft })).body as ForecastPart[]
    const figures = own.find((part) => part.part === 'figures')?.figures as MainFigures
    expect(body.binds).toBe(bindingSentence(figures))
    const advice = own.find((part) => part.part === 'advice')?.advice ?? []
    expect(body.advice.map((one: { wins: number }) => one.wins)).toEqual(advice.map(({ wins }) => wins))
  })

  it('is refused for a line that was never live', async () => {
    const { lineId } = await readyLine(ask)
    const answer = await ask('GET', `/lines/${lineId}/trace`)
    expect([answer.status, answer.body.title]).toEqual([409, 'This line was never live: there is nothing to trace yet.'])
  })

  it('shows one opportunity with every line’s verdict, and only of hours that were run', async () => {
    const { hour } = await readMarket()
    const { body } = await ask('GET', `/opportunity?hour=${hour - 1}&nth=3`)
    expect(body.count).toBeGreaterThan(10)
    expect(body.verdicts.length).toBeGreaterThan(3)
    const names = ['not in flight', 'out of hours', 'does not match', 'no ad', 'outbid', 'could win']
    for (const verdict of body.verdicts as {
      verdict: string
      failing: string[]
      steps: unknown[]
      bidMicros: number
      needMicros: number
    }[]) {
      expect(names).toContain(verdict.verdict)
      expect(verdict.steps.length).toBeGreaterThan(0)
      if (verdict.verdict === 'could win' || verdict.verdict === 'outbid') expect(verdict.failing).toEqual([])
      if (verdict.verdict === 'outbid') expect(verdict.bidMicros).toBeLessThan(verdict.needMicros)
    }
    expect((await ask('GET', `/opportunity?hour=${hour + 5}`)).status).toBe(409)
    expect((await ask('GET', `/opportunity?hour=${hour - 1}&nth=${body.count}`)).body.title).toBe(
      `That hour had ${(body.count as number).toLocaleString('en-GB')} opportunities.`
    )
    expect((await ask('GET', '/opportunity')).body.issues[0]).toMatchObject({ field: 'hour' })
    const rui = await server.as(READER)
    const seen = await rows<{ id: number }>('SELECT l.id FROM line l JOIN campaign c ON c.id = l.campaign_id WHERE c.advertiser_id = 3')
    const { body: own } = await rui('GET', `/opportunity?hour=${hour - 1}&nth=3`)
    for (const verdict of own.verdicts) expect(seen.map(({ id }) => id)).not.toContain(verdict.line)
  })

  it('finds the next opportunity that a line won or was stopped at, as the hour was counted', async () => {
    const [{ hour, wins, outbid }] = await rows<{
      hour: number
      wins: number
      outbid: number
    }>(`SELECT hour, SUM(IF(outcome = 'won', n, 0)) AS wins, SUM(IF(outcome IN ('outbid', 'below_floor'), n, 0)) AS outbid
      FROM outcome_hour WHERE line_id = 1001 GROUP BY hour HAVING wins > 0 AND outbid > 0 ORDER BY hour DESC LIMIT 1`)
    const all = async (sought: string) => {
      const found = []
      for (let after = -1; ;) {
        const { status, body } = await ask('GET', `/opportunity?hour=${hour}&line=1001&sought=${sought}&after=${after}`)
        if (status === 409) return found
        expect(body.nth).toBeGreaterThan(after)
        after = body.nth
        found.push(body)
      }
    }
    const won = await all('won')
    expect(won.length).toBe(Number(wins))
    for (const { bought, verdicts } of won) {
      expect(bought.name).toBe('Display, desktop, DE AT')
      expect(verdicts.find((verdict: { line: number }) => verdict.line === 1001).became).toBe('won')
    }
    expect((await all('outbid')).length).toBe(Number(outbid))
    expect((await ask('GET', `/opportunity?hour=${hour}&sought=won`)).body.issues[0]).toMatchObject({
      field: 'sought',
      message: 'Of which line?'
    })
    expect((await ask('GET', `/opportunity?hour=${hour}&line=1001&sought=luck`)).body.issues[0]).toMatchObject({ field: 'sought' })
    const rui = await server.as(READER)
    expect((await rui('GET', `/opportunity?hour=${hour}&line=99999&sought=won`)).status).toBe(404)
  })

  it('asked for by several pages at once is answered to all', async () => {
    const answers = await Promise.all([0, 1, 2, 3].map(() => ask('GET', '/lines/1001/trace')))
    for (const { status, body } of answers)
      expect([status, body.sieve.length, body.matched]).toEqual([200, answers[0].body.sieve.length, answers[0].body.matched])
  })
})

describe('running', () => {
  it('goes to a moment, and says when that is past or too far', async () => {
    const { hour } = await readMarket()
    await run({ to: hour + 3 })
    expect((await readMarket()).hour).toBe(hour + 3)
    expect((await ask('POST', '/market/run', { to: hour })).body.issues[0]).toMatchObject({
      field: 'to',
      message: 'The clock is past that moment already.'
    })
    expect((await ask('POST', '/market/run', { to: hour + 24 * 400 })).body.issues[0]).toMatchObject({ field: 'to' })
    expect((await ask('POST', '/market/run', {})).body.issues[0].field).toBe('hours')
    expect((await ask('POST', '/market/run', { hours: 1, to: hour + 9 })).body.issues[0].field).toBe('hours')
    expect((await ask('POST', '/market/run', { hours: 1, secondsAnHour: 0.01 })).body.issues[0].field).toBe('secondsAnHour')
  })

  it('played, an hour takes as long as was asked, and it stops at once', async () => {
    const { hour } = await readMarket()
    expect((await ask('POST', '/market/run', { hours: 50, secondsAnHour: 0.4 })).status).toBe(204)
    await new Promise((resolve) => setTimeout(resolve, 1500))
    const { body } = await ask('GET', '/market')
    expect(body.run).toMatchObject({ running: true, playing: true })
    const began = performance.now()
    await ask('DELETE', '/market/run')
    expect(performance.now() - began).toBeLessThan(1500)
    const state = await readMarket()
    expect(state.hour - hour).toBeGreaterThan(0)
    expect(state.hour - hour).toBeLessThan(8)
    expect(state.targetHour).toBeNull()
  })
})

describe('what a line that goes live keeps', () => {
  it('its traffic, and for bids that follow the market what rivals asked', async () => {
    const { lineId, version } = await readyLine(ask, {
      price: { model: 'CPM', bidMicros: 2_500_000, maxMicros: null, follow: true },
      pacing: 'traffic'
    })
    expect((await ask('POST', `/lines/${lineId}/live`, { version, token: newToken() })).status).toBe(200)
    const { rules } = await LineRevision.findOne({ where: { lineId }, rejectOnEmpty: true })
    expect(rules.traffic).toHaveLength(168)
    expect(rules.follow?.path.length).toBeGreaterThan(5)
    expect(rules.follow?.needs.every((needs) => needs.length === 16 && needs.every((need, n) => n === 0 || need >= needs[n - 1]))).toBe(
      true
    )
    await run({ hours: 24 })
    const [bought] = await rows<{ wins: number; micros: number }>(
      `SELECT SUM(wins) AS wins, SUM(spend_micros) AS micros FROM line_hour WHERE line_id = ${lineId}`
    )
    expect(Number(bought.wins)).toBeGreaterThan(10)
    expect(Number(bought.micros) / Number(bought.wins)).toBeLessThan(2500)
  })
})

describe('today', () => {
  it('is told by hour against its plan, with yesterday behind it, for a line and its campaign', async () => {
    const { hour } = await readMarket()
    const { body: line } = await ask('GET', '/lines/1001/today')
    const { body: campaign } = await ask('GET', '/campaigns/1/today')
    const zone = 'Europe/Lisbon'
    for (const [{ today }, where] of [
      [line, 'h.line_id = 1001'],
      [campaign, 'l.campaign_id = 1']
    ] as const) {
      expect(today.hours).toHaveLength(24)
      expect(today.plannedMicros).toHaveLength(25)
      expect(today.plannedMicros[0]).toBe(0)
      today.plannedMicros.forEach((micros: number, n: number) => expect(n === 0 || micros >= today.plannedMicros[n - 1]).toBe(true))
      const since = startOfLocalDay(zoneIndex(zone), localDayOf(zoneIndex(zone), hour))
      const [{ micros }] = await rows<{ micros: number }>(
        `SELECT COALESCE(SUM(h.spend_micros), 0) AS micros FROM line_hour h JOIN line l ON l.id = h.line_id WHERE ${where} AND h.hour >= ${since}`
      )
      const [{ before }] = await rows<{ before: number }>(
        `SELECT COALESCE(SUM(h.spend_micros), 0) AS \`before\` FROM line_hour h JOIN line l ON l.id = h.line_id WHERE ${where} AND h.hour >= ${since - 24} AND h.hour < ${since}`
      )
      const spend = (hours: { spendMicros: number }[]) => hours.reduce((sum, one) => sum + one.spendMicros, 0)
      expect([spend(today.hours), spend(today.yesterday)]).toEqual([Number(micros), Number(before)])
      const [{ matched, won }] = await rows<{ matched: number; won: number }>(
        `SELECT SUM(h.n) AS matched, SUM(IF(h.outcome = 'won', h.n, 0)) AS won FROM outcome_hour h JOIN line l ON l.id = h.line_id WHERE ${where} AND h.hour >= ${since}`
      )
      const all = (name: string) => today.hours.reduce((sum: number, one: Record<string, number>) => sum + one[name], 0)
      expect([all('matched'), all('wins')]).toEqual([Number(matched), Number(won)])
      for (const one of today.hours)
        expect([one.wins <= one.matched, one.viewable <= one.wins, one.clicks <= one.viewable]).toEqual([true, true, true])
    }
    // A line plans with its own limit and its share of the campaign's, whichever is less.
    expect(line.today.plannedMicros[24]).toBeLessThanOrEqual(campaign.today.plannedMicros[24])
  })

  it('is nothing for a line that is not in force', async () => {
    const { lineId } = await readyLine(ask)
    expect((await ask('GET', `/lines/${lineId}/today`)).body).toEqual({ today: null })
  })

  it('a line that learns says how far it is, and what it would bid for one opportunity', async () => {
    const [{ id }] = await rows<{ id: number }>("SELECT id FROM line WHERE draft LIKE '%Native clicks%'")
    expect((await ask('GET', `/lines/${id}`)).body.learning).toMatch(/of 50 clicks gathered|clicks say of placement/)
    expect((await ask('GET', '/lines/1001')).body.learning).toBe('')
    const { hour } = await readMarket()
    const { body } = await ask('GET', `/opportunity?hour=${hour - 1}&nth=9`)
    const steps = (name: string) =>
      body.verdicts.find((verdict: { name: string }) => verdict.name === name)?.steps.map((step: { what: string }) => step.what) as
        string[] | undefined
    expect(steps('Native clicks')?.some((what) => what.includes('its chance of a click here'))).toBe(true)
    expect(steps('Audio')?.[0]).toBe('aim at a view')
    expect(steps('Audio')?.[1]).toContain("the trade's average here")
  })
})
