import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { ForecastRecordView } from '@tin-harbor/core/contract'
import type { ForecastPart } from '@tin-harbor/core/forecast'
import { READER, TRADER, lineDraft, newToken, readyLine, testServer, type Ask, type TestServer } from './support/server.js'

let server: TestServer
let ask: Ask

beforeAll(async () => {
  server = await testServer('forecast_record')
  ask = await server.as(TRADER)
})
afterAll(() => server.close())

const record = async (query: string, who: Ask = ask) => (await who('GET', `/forecast-record${query}`)).body as ForecastRecordView
async function goLive(lineId: number): Promise<void> {
  const { version } = (await ask('GET', `/lines/${lineId}`)).body
  const { status, body } = await ask('POST', `/lines/${lineId}/live`, { version, token: newToken() })
  expect([status, body.title]).toEqual([200, undefined])
}
async function run(hours: number): Promise<void> {
  expect((await ask('POST', '/market/run', { hours })).status).toBe(204)
  const { runner, tapes } = server.deps
  await runner.idle()
  // What is asked then is of the tape that the run leaves.
  const firstDay = Math.floor(runner.status.hour / 24) - 14
  while (tapes.current?.head.firstDay !== firstDay) await new Promise((resolve) => setTimeout(resolve, 50))
}
let questions = 0
async function parts(campaignId: number, lineId: number | null, line: unknown): Promise<ForecastPart[]> {
  return (await ask('POST', '/forecast', { page: 'record', number: ++questions, campaignId, lineId, line })).body as ForecastPart[]
}
const partOf = <P extends ForecastPart['part']>(found: readonly ForecastPart[], part: P) =>
  found.find((one) => one.part === part) as Extract<ForecastPart, { part: P }>

describe('what was forecast', () => {
  it('stands beside what came once it ran seven days unchanged, for a line, a campaign and all', { timeout: 300_000 }, async () => {
    const campaign = { budget: { totalMicros: null, dailyMicros: null } }
    const { lineId, campaignId } = await readyLine(
      ask,
      { budget: { dailyMicros: 300_000, totalMicros: null }, onceCleared: 'start' },
      campaign
    )
    const before = await record('')
    expect((await record(`?line=${lineId}`)).rows).toEqual([])
    await goLive(lineId)
    await run(24)
    const [early] = (await record(`?line=${lineId}`)).rows
    expect([early.by, early.figures, early.to - early.from]).toEqual([null, [], 24])
    await run(6 * 24)
    const { rows, ranges, held } = await record(`?campaign=${campaignId}`)
    expect(rows.map(({ line, by }) => [line, by])).toEqual([[lineId, 'day']])
    const wins = rows[0].figures.find(({ what }) => what === 'wins')
    const { body } = await ask('GET', `/lines/${lineId}/results`)
    expect(wins?.came).toBe(body.total.impressions)
    expect(wins?.said.low).toBeLessThanOrEqual(wins?.said.value as number)
    expect(ranges).toBe(rows[0].figures.length)
    expect(held).toBe(rows[0].figures.filter((figure) => figure.held).length)
    expect((await record('')).ranges).toBeGreaterThanOrEqual(before.ranges + ranges)
    expect((await ask('GET', '/forecast-record?line=x')).body.issues[0].field).toBe('line')
  })

  it('begins again from what came: the next forecast knows the line’s level and rates', async () => {
    const [{ line: lineId }] = (await record('')).rows
    const line = (await ask('GET', `/lines/${lineId}`)).body
    const fresh = partOf(await parts(line.campaignId, null, line.draft), 'figures').figures
    const known = partOf(await parts(line.campaignId, lineId, line.draft), 'figures').figures
    const width = ({ low, value, high }: { low: number; value: number; high: number }) => (high - low) / value
    expect(known.day.wins.value).not.toBe(fresh.day.wins.value)
    expect(width(known.day.views)).toBeLessThan(width(fresh.day.views))
  })

  it('knows what our other lines take, and says which', async () => {
    const [{ line: lineId }] = (await record('')).rows
    const line = (await ask('GET', `/lines/${lineId}`)).body
    await server.deps.liveLines.current()
    const asked = {
      ...line.draft,
      name: 'Cheaper',
      price: { ...line.draft.price, bidMicros: Math.round(line.draft.price.bidMicros / 2000) * 1000 }
    }
    const cheaper = partOf(await parts(line.campaignId, null, asked), 'breakdowns').breakdowns
    expect(cheaper.taken[0].line).toBe(lineId)
    expect(cheaper.taken[0].wins).toBeGreaterThan(0)
    // The line itself loses nothing to itself.
    expect(partOf(await parts(line.campaignId, lineId, line.draft), 'breakdowns').breakdowns.taken.map((one) => one.line)).not.toContain(
      lineId
    )
  })

  it('tells in the manifest what a line in force gets of the possible: what its own page says', async () => {
    const [{ line: lineId }] = (await record('')).rows
    const line = (await ask('GET', `/lines/${lineId}`)).body
    await server.deps.possible.current()
    const strips = (await ask('GET', '/manifest')).body.lines as { id: number; state: string; possible: number | null }[]
    const { possible } = partOf(await parts(line.campaignId, lineId, line.draft), 'advice')
    expect(possible).toBeGreaterThan(0)
    expect(strips.find(({ id }) => id === lineId)?.possible).toBe(possible)
    expect(strips.filter(({ state }) => state === 'draft').map((strip) => strip.possible)).not.toContain(possible)
  })

  it('is not judged over a pause', async () => {
    const { lineId } = await readyLine(ask, { onceCleared: 'start' })
    await goLive(lineId)
    await run(5 * 24)
    const move = (kind: string) => ask('POST', `/lines/${lineId}/move`, { move: kind })
    expect((await move('pause')).status).toBeLessThan(300)
    await run(24)
    expect((await move('resume')).status).toBeLessThan(300)
    await run(3 * 24)
    const [row] = (await record(`?line=${lineId}`)).rows
    expect([row.to - row.from, row.by, row.figures]).toEqual([5 * 24, null, []])
  })

  it('is told to those who see the line, and to nobody else', async () => {
    expect((await server.nobody('GET', '/forecast-record')).status).toBe(401)
    const reader = await server.as(READER)
    const seen = new Set((await reader('GET', '/manifest')).body.lines?.map(({ id }: { id: number }) => id))
    for (const { line } of (await record('', reader)).rows) expect(seen.has(line)).toBe(true)
    expect((await parts((await readyLine(ask)).campaignId, null, lineDraft())).map(({ part }) => part)).toContain('breakdowns')
  })
})
