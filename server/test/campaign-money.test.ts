import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { CompanyView } from '@tin-harbor/core/contract'
import { KeptAnswers } from '../src/forecasts/kept-answers.js'
import { TRADER, lineDraft, readyLine, testServer, type Ask, type TestServer } from './support/server.js'

let server: TestServer
let ask: Ask

beforeAll(async () => {
  server = await testServer('campaign_money')
  ask = await server.as(TRADER)
})
afterAll(() => server.close())

async function company(campaignId: number): Promise<CompanyView> {
  const { status, body } = await ask('GET', `/campaigns/${campaignId}/company`)
  expect([status, body.title]).toEqual([200, undefined])
  return body.company as CompanyView
}
const budget = async (line: number) => (await ask('GET', `/lines/${line}`)).body.draft.budget.dailyMicros as number

describe('a campaign’s money over its lines', () => {
  it('is asked by several pages at once and answered to all; each line is given its part, all or none', async () => {
    const { campaignId, lineId } = await readyLine(ask)
    const { body: other } = await ask(
      'POST',
      `/campaigns/${campaignId}/lines`,
      lineDraft({
        name: 'Desktops',
        targeting: {
          restrictions: [
            { dimension: 'where', mode: 'include', values: ['GB', 'FR'] },
            { dimension: 'device', mode: 'include', values: ['desktop'] }
          ]
        }
      })
    )
    const answers = await Promise.all([0, 1, 2].map(() => company(campaignId)))
    // A new tape may come between two of them: their lines are the same, their figures need not be.
    for (const answer of answers)
      expect(answer.lines.map(({ line, ownMicros }) => [line, ownMicros])).toEqual([
        [lineId, 300_000],
        [other.id, 300_000]
      ])
    const [{ lines, totalMicros }] = answers
    expect(lines.reduce((sum, line) => sum + line.advisedMicros, 0)).toBeLessThanOrEqual(totalMicros)

    const parts = lines.map(({ line, version }, n) => ({ line, version, dailyMicros: 500_000 + n }))
    const put = (body: object) => ask('PUT', `/campaigns/${campaignId}/daily-budgets`, body)
    expect((await put({ parts: [parts[0], { ...parts[1], version: parts[1].version + 7 }] })).body.title).toBe(
      '“Desktops” was changed meanwhile; nothing was saved.'
    )
    expect(await budget(lineId)).toBe(300_000)
    expect((await put({ parts: [parts[0], parts[0]] })).body.issues[0]).toMatchObject({ field: 'parts', message: 'Each line once.' })
    expect((await put({ parts: [{ ...parts[0], dailyMicros: 0 }] })).body.issues[0]).toMatchObject({
      field: 'parts[0].dailyMicros',
      message: 'A daily budget must be more than 0.'
    })
    expect((await put({ parts: [parts[0], { ...parts[1], dailyMicros: 1 }] })).status).toBe(422)
    expect(await budget(lineId)).toBe(300_000)
    const { lineId: foreign } = await readyLine(ask)
    expect((await put({ parts: [parts[0], { line: foreign, version: 1, dailyMicros: 400_000 }] })).status).toBe(404)
    expect(await budget(lineId)).toBe(300_000)

    expect((await put({ parts })).status).toBe(204)
    expect([await budget(lineId), await budget(other.id as number)]).toEqual([500_000, 500_001])
    const { body: history } = await ask('GET', `/lines/${lineId}/history`)
    expect(JSON.stringify(history.entries)).toContain('budget')
  })
})

describe('kept answers', () => {
  it('are asked for once a name, forgotten when they fail, and the oldest make room', async () => {
    const kept = new KeptAnswers<number>(2)
    let asked = 0
    const keptOf = (name: string) => kept.of(name, () => Promise.resolve(++asked))
    expect(await Promise.all([keptOf('a'), keptOf('a'), keptOf('b')])).toEqual([1, 1, 2])
    await keptOf('c')
    expect(await keptOf('a')).toBe(4)
    expect(await keptOf('c')).toBe(3)
    await expect(kept.of('d', () => Promise.reject(new Error('no tape')))).rejects.toThrow('no tape')
    expect(await keptOf('d')).toBe(5)
  })
})
