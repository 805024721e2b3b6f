import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { ROLES, hasRight, type Role, type AskFacts, type PlacedAsk } from '@tin-harbor/core/buying'
import { allRoutes } from '../src/all-routes.js'
import { Advertiser } from '../src/advertisers/advertiser-model.js'
import { DealRequest, GrantedDeal } from '../src/deals/deal-model.js'
import { LedgerEntry } from '../src/money/ledger-model.js'
import { Organisation, User, UserAdvertiser } from '../src/team/user-model.js'
import { fileNumbers } from './support/files.js'
import { organisationNumbers } from './support/numbers.js'
import {
  ADMIN,
  TRADER,
  campaignDraft,
  formOf,
  lineDraft,
  newToken,
  picture,
  readyLine,
  testServer,
  type Ask,
  type TestServer
} from './support/server.js'

let server: TestServer
/** The demo's organisation, and another of people who do the same beside it. */
let ours: Ask
const theirs = new Map<Role, Ask>()
let own: {
  lineId: number
  campaignId: number
  creativeId: number
  adId: number
  listId: number
  dealId: number
  askId: number
  slipId: number
  fileId: number
  uploadId: number
  fitId: number
  madeId: number
  mixId: number
  feedId: number
  plateId: number
  offerId: number
  trackerId: number
  reviewId: number
  linkId: number
  paymentId: number
  userId: number
  invitationId: number
  sessionId: number
  tokenId: number
  version: number
}
let other: { advertiserId: number; lineId: number; campaignId: number; version: number; listId: number; dealId: number }
/** Words that only one of the two may ever read. */
const OURS = 'Quillfish'
const THEIRS = 'Tarnwater'

beforeAll(async () => {
  server = await testServer('organisations')
  ours = await server.as(ADMIN)
  const made = await readyLine(ours, { name: `${OURS} line` }, { name: `${OURS} campaign` })
  const { body: line } = await ours('GET', `/lines/${made.lineId}`)
  const list = await ours('POST', '/lists', {
    advertiserId: null,
    list: { name: `${OURS} list`, kind: 'keywords', values: ['telescope'], group: null }
  })
  const slip = await ours('POST', '/slips', { name: `${OURS} slip`, items: [{ line: made.lineId, fields: ['whole line'] }] })
  const model = await User.findOne({ where: { email: TRADER }, rejectOnEmpty: true })
  const second = await server.deps.sequelize.transaction(async (transaction) => {
    const { id: organisationId } = await Organisation.create(
      { name: `${THEIRS} buying`, currency: 'EUR', zone: 'Europe/Berlin' },
      { transaction }
    )
    const { id: advertiserId } = await Advertiser.create(
      { organisationId, name: `${THEIRS} kites`, domain: 'kites.example', zone: 'Europe/Berlin' },
      { transaction }
    )
    for (const role of ROLES) {
      const user = await User.create(
        {
          organisationId,
          passwordHash: model.passwordHash,
          role,
          name: `${THEIRS} ${role}`,
          email: `${role}@tarnwater.example`,
          allAdvertisers: role !== 'trader'
        },
        { transaction }
      )
      if (role === 'trader') await UserAdvertiser.create({ userId: user.id, advertiserId }, { transaction })
    }
    // Somebody gave a user of theirs an advertiser of ours: it is not theirs all the same.
    const trader = await User.findOne({ where: { email: 'trader@tarnwater.example' }, rejectOnEmpty: true, transaction })
    await UserAdvertiser.create({ userId: trader.id, advertiserId: 3 }, { transaction })
    await LedgerEntry.create(
      { organisationId, kind: 'top-up', hour: 0, advertiserId: null, amountMicros: 77_000_000, note: '', madeBy: null },
      { transaction }
    )
    const deal = async (whose: number, name: string) =>
      (
        await GrantedDeal.create(
          {
            organisationId: whose,
            name,
            publisher: 1,
            kind: 'floor',
            priceMicros: 1_000_000,
            placements: [1],
            volume: null,
            leastSpendMicros: null
          },
          { transaction }
        )
      ).id
    const { id: ourAsk } = await DealRequest.create(
      { organisationId: 1, asked: {} as PlacedAsk, facts: {} as AskFacts, askedHour: 0, state: 'countered', madeBy: null },
      { transaction }
    )
    return { advertiserId, ourAsk, ourDeal: await deal(1, `${OURS} deal`), theirDeal: await deal(organisationId, `${THEIRS} deal`) }
  })
  const files = await fileNumbers(ours, server.deps.sequelize, 3, made.lineId)
  own = {
    ...made,
    ...files,
    ...(await organisationNumbers(server.deps.sequelize, 1)),
    creativeId: line.ads[0].creativeId,
    adId: line.ads[0].id,
    listId: list.body.id,
    dealId: second.ourDeal,
    askId: second.ourAsk,
    slipId: slip.body.id
  }
  for (const role of ROLES) theirs.set(role, await server.as(`${role}@tarnwater.example`))
  const admin = theirs.get('admin') as Ask
  const campaign = await admin('POST', `/advertisers/${second.advertiserId}/campaigns`, campaignDraft({ name: `${THEIRS} campaign` }))
  const { body } = await admin('POST', `/campaigns/${campaign.body.id}/lines`, lineDraft({ name: `${THEIRS} line` }))
  const ready = await admin('POST', `/lines/${body.id}/creatives`, formOf(await picture(300, 250), 'kite.png'))
  const theirList = await admin('POST', '/lists', {
    advertiserId: null,
    list: { name: `${THEIRS} list`, kind: 'keywords', values: ['eclipse'], group: null }
  })
  other = {
    advertiserId: second.advertiserId,
    lineId: body.id,
    campaignId: campaign.body.id,
    version: ready.body.version,
    listId: theirList.body.id,
    dealId: second.theirDeal
  }
})
afterAll(() => server.close())

describe('two organisations', () => {
  it('nobody of one gets in by a number of the other, on any route, in any role', async () => {
    const ids: Record<string, number> = { ...own, advertiserId: 3 }
    const wrong: string[] = []
    for (const definition of allRoutes(server.deps)) {
      if (!definition.path.includes(':')) continue
      const path = definition.path.replace(/:(\w+)/g, (_, name: string) => String(ids[name]))
      for (const [role, ask] of theirs) {
        const { status } = await ask(
          definition.method.toUpperCase(),
          path,
          ['get', 'head', 'delete'].includes(definition.method) ? undefined : {}
        )
        if (status !== 403) wrong.push(`${definition.method} ${path}: a ${role} got ${status}`)
      }
    }
    expect(wrong).toEqual([])
  })

  it('nor by one in a body or in the address', async () => {
    const admin = theirs.get('admin') as Ask
    const draft = lineDraft()
    const tries: [string, string, unknown, number[]][] = [
      ['PUT', `/lists/${own.listId}`, { version: 1, rename: null, add: ['eclipse'], remove: [] }, [403]],
      ['DELETE', `/lists/${own.listId}`, undefined, [403]],
      ['POST', '/lists', { advertiserId: 3, list: { name: 'x', kind: 'keywords', values: ['eclipse'], group: null } }, [403]],
      ['POST', '/slips', { name: 'x', items: [{ line: own.lineId, fields: ['pacing'] }] }, [403]],
      ['POST', `/slips/${own.slipId}/live`, { token: newToken() }, [403]],
      ['POST', `/slips/${own.slipId}/take-back`, undefined, [403]],
      ['DELETE', `/slips/${own.slipId}`, undefined, [403]],
      ['POST', `/deals/asks/${own.askId}/take`, undefined, [403]],
      ['POST', '/forecast', { page: 'other', number: 1, campaignId: own.campaignId, lineId: null, line: draft }, [403]],
      ['POST', `/lines/${other.lineId}/copy`, { name: 'x', campaignId: own.campaignId }, [403]],
      ['POST', `/lines/${other.lineId}/campaign`, { campaignId: own.campaignId }, [403]],
      [
        'PUT',
        `/lines/${other.lineId}`,
        {
          version: other.version,
          line: {
            ...draft,
            targeting: { restrictions: [{ dimension: 'keyword', mode: 'include', values: ['telescope'], list: own.listId }] }
          }
        },
        [422]
      ],
      [
        'POST',
        '/forecast',
        {
          page: 'deals',
          number: 1,
          campaignId: other.campaignId,
          lineId: other.lineId,
          line: { ...draft, buys: { open: false, deals: [own.dealId] } }
        },
        [422]
      ]
    ]
    for (const [method, path, body, statuses] of tries) {
      const answer = await admin(method, path, body)
      expect([method, path, statuses.includes(answer.status), JSON.stringify(answer.body).includes(OURS)], `${answer.status}`).toEqual([
        method,
        path,
        true,
        false
      ])
    }
    const { body: reports } = await admin('GET', '/reports?by=line&from=2026-02-16&to=2026-03-02')
    expect(reports.rows).toEqual([])
    expect((await ours('GET', '/lists')).body.lists.find((list: { id: number }) => list.id === own.listId).values).toEqual(['telescope'])
  })

  it('no answer of either has a word of the other', async () => {
    const queries: Record<string, string> = {
      '/reports': '?by=deal&from=2026-02-16&to=2026-03-02',
      '/market/property': '?property=1',
      '/opportunity': '?hour=1400&nth=3'
    }
    const paths = allRoutes(server.deps)
      .filter((one) => one.method === 'get' && !one.path.includes(':') && one.path !== '/events')
      .map(({ path }) => `${path}${queries[path] ?? ''}`)
    expect(paths.length).toBeGreaterThan(8)
    const survey = {
      page: 'both',
      sentence: { formats: [], targeting: { restrictions: [] }, hours: null },
      by: ['deal'],
      without: null,
      bidMicros: 1_000_000
    }
    const leaks = async (who: string, ask: Ask, word: string) => {
      for (const path of paths)
        if (JSON.stringify((await ask('GET', path)).body).includes(word)) throw new Error(`${who} reads "${word}" at ${path}.`)
      expect(JSON.stringify((await ask('POST', '/market/survey', { ...survey, page: `both-${who.length}` })).body)).not.toContain(word)
    }
    for (const [role, ask] of theirs) if (hasRight(role, 'read')) await leaks(`their ${role}`, ask, OURS)
    await leaks('our admin', ours, THEIRS)
    expect(JSON.stringify((await ours('GET', '/lists')).body)).toContain(`${OURS} list`)
    expect(JSON.stringify((await (theirs.get('reader') as Ask)('GET', '/deals')).body)).toContain(`${THEIRS} deal`)
  })

  it('have a balance each, and are told of their own runs alone', async () => {
    const before = (await ours('GET', '/market')).body.funds.balanceMicros as number
    expect((await (theirs.get('finance') as Ask)('GET', '/market')).body.funds.balanceMicros).toBe(77_000_000)
    expect((await ours('POST', '/market/run', { hours: 2 })).status).toBe(204)
    await server.deps.runner.idle()
    const [we, they] = [(await ours('GET', '/market')).body, (await (theirs.get('reader') as Ask)('GET', '/market')).body]
    expect(we.run.wins).toBeGreaterThan(0)
    expect(before - we.funds.balanceMicros).toBe(we.run.spendMicros)
    expect(they.run).toMatchObject({ wins: 0, spendMicros: 0, hour: we.hour })
    expect(they.funds.balanceMicros).toBe(77_000_000)
  })

  it('share a market that buys for the first: the second drafts and forecasts, and is told why it does not go live', async () => {
    const [trader, admin] = [theirs.get('trader') as Ask, theirs.get('admin') as Ask]
    const parts = (
      await trader('POST', '/forecast', { page: 'live', number: 1, campaignId: other.campaignId, lineId: other.lineId, line: lineDraft() })
    ).body as { part: string }[]
    expect(parts.map(({ part }) => part)).toContain('figures')
    const live = await admin('POST', `/lines/${other.lineId}/live`, { version: other.version, token: newToken() })
    expect([live.status, live.body.title]).toEqual([
      409,
      'The market buys for another organisation already: your lines can be drafted and forecast here, not put live.'
    ])
    const slip = await admin('POST', '/slips/live', {
      name: 'x',
      items: [{ line: other.lineId, fields: ['whole line'] }],
      token: newToken()
    })
    expect([slip.status, String(slip.body.title)]).toEqual([409, expect.stringContaining('another organisation')])
    expect((await admin('POST', '/market/run', { hours: 1 })).body.title).toBe(
      'The market buys for another organisation: its clock is theirs.'
    )
    expect((await admin('DELETE', '/market/run')).status).toBe(403)
    expect((await admin('GET', `/lines/${other.lineId}`)).body.state).toBe('draft')
  })
})

describe('an advertiser of one’s own organisation that one does not see', () => {
  it('tells nothing of its money in an opportunity that it bought, nor in the events of a run', async () => {
    const reader = await server.as('rui@wharfside.example')
    const admin = await server.as(ADMIN)
    const { lineId, version } = await readyLine(
      admin,
      {
        name: 'Unseen line',
        price: { model: 'CPM', bidMicros: 60_000_000, maxMicros: null },
        budget: { dailyMicros: 5_000_000, totalMicros: null },
        pacing: 'fast'
      },
      { budget: { totalMicros: null, dailyMicros: null } }
    )
    const live = await admin('POST', `/lines/${lineId}/live`, { version, token: newToken() })
    expect(live.status).toBe(200)
    expect((await admin('POST', '/market/run', { hours: 3 })).status).toBe(204)
    await server.deps.runner.idle()
    const { hour, run } = (await admin('GET', '/market')).body
    const won = await admin('GET', `/opportunity?hour=${hour - 1}&line=${lineId}&sought=won`)
    expect(won.body.bought).toMatchObject({ name: 'Unseen line', priceMicros: expect.any(Number) })
    const same = await reader('GET', `/opportunity?hour=${hour - 1}&nth=${won.body.nth}`)
    expect(same.body.bought).toEqual({ name: null })
    expect(JSON.stringify(same.body)).not.toContain('Unseen')
    const seen = (await reader('GET', '/market')).body.run
    const { body: results } = await admin('GET', `/lines/${lineId}/results`)
    expect(run.wins - seen.wins).toBe(results.total.impressions)
    expect(run.spendMicros - seen.spendMicros).toBe(results.total.spendMicros)
  })
})
