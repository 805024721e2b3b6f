import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { LineDraft } from '@tin-harbor/core/buying'
import type { HistoryEntry, LineView, SlipsView, StagedForecast } from '@tin-harbor/core/contract'
import { Publication } from '../src/going-live/publication-model.js'
import { LineRevision } from '../src/lines/line-model.js'
import { AuditEntry } from '../src/team/audit-model.js'
import { Presence } from '../src/lines/presence.js'
import {
  ADMIN,
  READER,
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
let ask: Ask

beforeAll(async () => {
  server = await testServer('slips')
  ask = await server.as(TRADER)
})
afterAll(() => server.close())

const line = async (id: number): Promise<LineView> => (await ask('GET', `/lines/${id}`)).body as LineView
async function edit(id: number, change: (draft: LineDraft) => void): Promise<void> {
  const { draft, version } = await line(id)
  change(draft)
  expect((await ask('PUT', `/lines/${id}`, { version, line: draft })).status).toBe(200)
}
async function liveLine(): Promise<{ lineId: number; campaignId: number }> {
  const made = await readyLine(ask)
  expect((await ask('POST', `/lines/${made.lineId}/live`, { version: (await line(made.lineId)).version, token: newToken() })).status).toBe(
    200
  )
  return made
}
const slips = async () => (await ask('GET', '/slips')).body as SlipsView
const inForce = async (id: number) => (await line(id)).inForce?.draft as LineDraft

describe('a change slip', () => {
  it('holds the edits of live lines, before and after, with what each is forecast to bring', async () => {
    const { lineId } = await liveLine()
    expect((await slips()).staged.some((one) => one.line === lineId)).toBe(false)
    const inForce = (await ask('GET', `/lines/${lineId}`)).body.draft as LineDraft
    await edit(lineId, (draft) => {
      draft.price.bidMicros = 2_750_000
      draft.caps = [{ times: 5, hours: 48 }]
    })
    const staged = (await slips()).staged.find((one) => one.line === lineId)
    expect(staged?.changes.map(({ field, after }) => [field, after])).toEqual([
      ['price.bidMicros', '€2.75'],
      ['caps', '5 in 48 h']
    ])
    const { expected } = (await ask('GET', '/slips/expected')).body as { expected: StagedForecast[] }
    // Both as they are forecast now, so that nothing but the edits lies between them.
    const own = expected.find((one) => one.line === staged?.line)
    expect(own?.before?.wins).toBeGreaterThan(0)
    expect(own?.after?.wins).toBeGreaterThan(0)
    expect(own?.after?.wins).not.toBe(own?.before?.wins)
    await edit(lineId, (draft) => Object.assign(draft, inForce, { name: 'Named anew' }))
    const named = ((await ask('GET', '/slips/expected')).body as { expected: StagedForecast[] }).expected.find(
      ({ line }) => line === lineId
    )
    expect(named?.after).toEqual(named?.before)
    const manifest = (await ask('GET', '/manifest')).body as { lines: { id: number; staged: boolean }[] }
    expect(manifest.lines.find(({ id }) => id === lineId)?.staged).toBe(true)
  })

  it('puts chosen edits of several lines live in one publication, and leaves the others staged', async () => {
    const [a, b] = [(await liveLine()).lineId, (await liveLine()).lineId]
    for (const id of [a, b])
      await edit(id, (draft) => {
        draft.price.bidMicros = 2_600_000
        draft.budget.dailyMicros = 5_000_000
      })
    const before = await Publication.count()
    const token = newToken()
    const items = [
      { line: a, fields: ['price.bidMicros'] },
      { line: b, fields: ['price.bidMicros', 'budget.dailyMicros'] }
    ]
    const answer = await ask('POST', '/slips/live', { name: 'Dearer', items, token })
    expect(answer.body).toMatchObject({ lines: 2 })
    expect((await ask('POST', '/slips/live', { name: 'Dearer', items, token })).body).toEqual(answer.body)
    expect(await Publication.count()).toBe(before + 1)
    expect([(await inForce(a)).price.bidMicros, (await inForce(a)).budget.dailyMicros, (await inForce(b)).budget.dailyMicros]).toEqual([
      2_600_000,
      lineDraft().budget.dailyMicros,
      5_000_000
    ])
    expect((await line(a)).inForce?.changes.map(({ field }) => field)).toEqual(['budget.dailyMicros'])
    expect((await line(b)).inForce?.changes).toEqual([])
    expect(await AuditEntry.count({ where: { object: 'slip', action: 'put live', objectId: answer.body.id } })).toBe(1)
  })

  it('goes live whole or not at all: one line that stops it stops it all', async () => {
    const [a, b] = [(await liveLine()).lineId, (await liveLine()).lineId]
    await edit(a, (draft) => (draft.price.bidMicros = 2_900_000))
    await edit(b, (draft) => (draft.landing = ''))
    const revisions = await LineRevision.count()
    const answer = await ask('POST', '/slips/live', {
      name: 'Both',
      items: [
        { line: a, fields: ['price.bidMicros'] },
        { line: b, fields: ['landing'] }
      ],
      token: newToken()
    })
    expect(answer.status).toBe(422)
    expect(answer.body.title).toContain('A landing link is needed.')
    expect(answer.body.issues[0].field).toBe(`L-${b}.landing`)
    expect([await LineRevision.count(), (await inForce(a)).price.bidMicros]).toEqual([revisions, lineDraft().price.bidMicros])
    expect((await slips()).slips.some(({ name }) => name === 'Both')).toBe(false)
  })

  it('refuses edits that are no line without the others', async () => {
    const { lineId } = await liveLine()
    await edit(lineId, (draft) =>
      Object.assign(draft.price, { aim: { event: 'click', micros: 500_000 }, maxMicros: 3_500_000, follow: false })
    )
    await edit(lineId, (draft) => (draft.price.maxMicros = 4_000_000))
    const aim = { name: 'Aim', items: [{ line: lineId, fields: ['price.aim'] }], token: newToken() }
    expect((await ask('POST', '/slips/live', aim)).status).toBe(200)
    await edit(lineId, (draft) => Object.assign(draft.price, { model: 'CPC', bidMicros: 200_000, maxMicros: null, aim: null }))
    const alone = await ask('POST', '/slips/live', {
      name: 'Maximum',
      items: [{ line: lineId, fields: ['price.maxMicros'] }],
      token: newToken()
    })
    expect([alone.status, alone.body.issues[0]]).toEqual([
      422,
      { field: `L-${lineId}.price.maxMicros`, message: 'An aim needs a maximum bid that it never passes.' }
    ])
  })

  it('is made of edits that are moved to it, goes live by its number, and is taken back as a whole', async () => {
    const [a, b] = [(await liveLine()).lineId, (await liveLine()).lineId]
    for (const id of [a, b])
      await edit(id, (draft) => {
        draft.pacing = 'fast'
        draft.gapMinutes = 30
      })
    const { id } = (await ask('POST', '/slips', { name: 'Faster', items: [a, b].map((one) => ({ line: one, fields: ['pacing'] })) }))
      .body as { id: number }
    expect((await slips()).slips.find((slip) => slip.id === id)).toMatchObject({ state: 'open', name: 'Faster' })
    // An edit is on one slip at a time.
    const other = (await ask('POST', '/slips', { name: 'Only b', items: [{ line: b, fields: ['pacing'] }] })).body as { id: number }
    expect((await slips()).slips.find((slip) => slip.id === id)?.items).toEqual([{ line: a, fields: ['pacing'] }])
    expect((await ask('DELETE', `/slips/${other.id}`)).status).toBe(204)
    expect((await ask('POST', `/slips/${id}/live`, { token: newToken() })).body).toMatchObject({ id, lines: 1 })
    expect([(await inForce(a)).pacing, (await inForce(a)).gapMinutes ?? null, (await inForce(b)).pacing]).toEqual(['fast', null, 'even'])
    const before = (await line(a)).version
    expect((await ask('POST', `/slips/${id}/take-back`)).status).toBe(204)
    const back = await line(a)
    expect([back.inForce?.draft.pacing, back.draft.pacing, back.draft.gapMinutes, back.version]).toEqual(['even', 'even', 30, before + 1])
    expect((await ask('POST', `/slips/${id}/take-back`)).body.title).toContain('Only a slip that is live')
    expect((await ask('POST', `/slips/${id}/live`, { token: newToken() })).body.title).toContain('not open')
  })

  it('is not taken back over what went live since, and says so beforehand', async () => {
    const { lineId } = await liveLine()
    await edit(lineId, (draft) => (draft.price.bidMicros = 2_600_000))
    const { id } = (
      await ask('POST', '/slips/live', { name: 'First', items: [{ line: lineId, fields: ['price.bidMicros'] }], token: newToken() })
    ).body as { id: number }
    expect((await slips()).slips.find((slip) => slip.id === id)?.stands).toBeNull()
    await edit(lineId, (draft) => (draft.price.bidMicros = 2_400_000))
    await ask('POST', `/lines/${lineId}/live`, { version: (await line(lineId)).version, token: newToken() })
    expect((await slips()).slips.find((slip) => slip.id === id)?.stands).toBe(`L-${lineId} went live again since.`)
    const answer = await ask('POST', `/slips/${id}/take-back`)
    expect([answer.status, answer.body.title]).toEqual([409, `L-${lineId} went live again since; take that back first.`])
  })

  it('names only lines that its maker sees, and is checked field by field', async () => {
    const admin = await server.as(ADMIN)
    const { lineId } = await liveLine()
    const reader = await server.as(READER)
    expect((await reader('GET', '/slips')).status).toBe(403)
    expect((await admin('GET', '/slips')).status).toBe(200)
    expect((await ask('POST', '/slips', { name: 'x', items: [{ line: 99_999, fields: ['pacing'] }] })).body.title).toContain(
      'You do not see line L-99999'
    )
    const wrong = await ask('POST', '/slips', { name: ' ', items: [{ line: lineId, fields: [] }] })
    expect(wrong.body.issues.map(({ field }: { field: string }) => field).sort()).toEqual(['items[0].fields', 'name'])
    const twice = await ask('POST', '/slips', {
      name: 'x',
      items: [
        { line: lineId, fields: ['caps'] },
        { line: lineId, fields: ['pacing'] }
      ]
    })
    expect(twice.body.issues).toEqual([{ field: 'items', message: 'A slip names each line once.' }])
    expect((await ask('POST', '/slips/live', { name: 'x', token: newToken() })).status).toBe(422)
    expect(
      (
        await ask('POST', '/slips/live', {
          name: 'x',
          items: [{ line: (await readyLine(ask)).lineId, fields: ['pacing'] }],
          token: newToken()
        })
      ).body.title
    ).toContain('was never live')
  })
})

describe('a copy', () => {
  it('is deep, named as told, says what differs from its original, and lies in its campaign', async () => {
    const { lineId, campaignId } = await readyLine(ask)
    const copy = (await ask('POST', `/lines/${lineId}/copy`, { name: 'The copy', campaignId: null })).body as LineView
    const original = await line(lineId)
    expect([copy.draft.name, copy.campaignId, copy.state, copy.ads.length]).toEqual(['The copy', campaignId, 'draft', original.ads.length])
    expect(copy.ads.every((ad) => original.ads.every((other) => other.id !== ad.id))).toBe(true)
    expect(copy.copiedFrom).toMatchObject({ id: lineId, differs: [{ field: 'name' }] })
    await edit(copy.id, (draft) => (draft.price.bidMicros = 2_100_000))
    expect((await line(copy.id)).copiedFrom?.differs.map(({ field }) => field)).toEqual(['name', 'price.bidMicros'])
    expect((await line(lineId)).draft.price.bidMicros).toBe(lineDraft().price.bidMicros)
    const later = (
      await ask('POST', '/advertisers/3/campaigns', campaignDraft({ flight: { startDate: '2026-05-01', endDate: '2026-05-20' } }))
    ).body as { id: number }
    const moved = (await ask('POST', `/lines/${lineId}/copy`, { name: 'In May', campaignId: later.id })).body as LineView
    expect([moved.campaignId, moved.draft.flight]).toEqual([later.id, { startDate: '2026-05-01', endDate: '2026-05-20' }])
    const elsewhere = (await ask('POST', '/advertisers/1/campaigns', campaignDraft())).body as { id: number }
    expect((await ask('POST', `/lines/${lineId}/copy`, { name: 'x', campaignId: elsewhere.id })).body.issues[0].field).toBe('campaignId')
  })

  it('drafts move between campaigns, lines that were live do not', async () => {
    const { lineId } = await readyLine(ask)
    const other = (await ask('POST', '/advertisers/3/campaigns', campaignDraft())).body as { id: number }
    expect((await ask('POST', `/lines/${lineId}/campaign`, { campaignId: other.id })).body.campaignId).toBe(other.id)
    const live = await liveLine()
    expect((await ask('POST', `/lines/${live.lineId}/campaign`, { campaignId: other.id })).body.title).toContain('copy it instead')
    expect((await ask('POST', `/lines/${lineId}/campaign`, { campaignId: 1 })).body.issues[0].field).toBe('campaignId')
  })

  it('tags are kept once each, and a template is copied, never put live', async () => {
    const { lineId } = await readyLine(ask)
    expect((await ask('POST', `/lines/${lineId}/label`, { tags: ['Spring', 'spring', ' test '] })).body.issues?.[0].field).toBe('tags[2]')
    expect((await ask('POST', `/lines/${lineId}/label`, { tags: ['Spring', 'spring', 'test'] })).body.tags).toEqual(['Spring', 'test'])
    expect((await ask('POST', `/lines/${lineId}/label`, { template: true })).body).toMatchObject({
      template: true,
      tags: ['Spring', 'test']
    })
    const refused = await ask('POST', `/lines/${lineId}/live`, { version: (await line(lineId)).version, token: newToken() })
    expect(refused.body.title).toContain('A template does not go live')
    const copy = (await ask('POST', `/lines/${lineId}/copy`, { name: 'From it', campaignId: null })).body as LineView
    expect([copy.template, copy.tags]).toEqual([false, ['Spring', 'test']])
    expect((await ask('POST', `/lines/${(await liveLine()).lineId}/label`, { template: true })).body.title).toContain('never live')
  })
})

describe('the history of a line', () => {
  it('tells who did what, field by field, the newest first', async () => {
    const { lineId } = await liveLine()
    await edit(lineId, (draft) => (draft.pacing = 'fast'))
    await ask('POST', `/lines/${lineId}/move`, { move: 'pause' })
    const { entries } = (await ask('GET', `/lines/${lineId}/history`)).body as { entries: HistoryEntry[] }
    expect(entries.map(({ action }) => action)).toEqual(['paused it', 'changed its draft', 'put live', 'made it'])
    const { hour } = (await ask('GET', '/market')).body as { hour: number }
    expect(entries.map((entry) => entry.hour)).toEqual([hour, hour, hour, hour])
    expect(entries[1]).toMatchObject({ who: 'Inês Duarte', changes: [{ field: 'pacing', before: 'evenly', after: 'as fast as it can' }] })
  })
})

describe('two people on one line', () => {
  it('see each other, and which version it has by now', async () => {
    const marta = await server.as(ADMIN)
    const { lineId } = await readyLine(ask)
    const first = (await ask('POST', `/lines/${lineId}/here`, {})).body as { others: string[]; version: number }
    expect(first).toEqual({ others: [], version: (await line(lineId)).version })
    const second = (await marta('POST', `/lines/${lineId}/here`, {})).body as { others: string[] }
    expect(second.others).toEqual(['Inês Duarte'])
    await edit(lineId, (draft) => (draft.pacing = 'fast'))
    expect((await ask('POST', `/lines/${lineId}/here`, {})).body).toMatchObject({
      others: [expect.any(String)],
      version: first.version + 1
    })
    const presence = new Presence(1000)
    expect([
      presence.look(1, { id: 1, name: 'a' }, 0),
      presence.look(1, { id: 2, name: 'b' }, 900),
      presence.look(1, { id: 2, name: 'b' }, 1100)
    ]).toEqual([[], ['a'], []])
  })
})

describe('preflight', () => {
  it('is asked of a draft that is not saved, by what the market, the campaign and the offers say', async () => {
    const { lineId } = await liveLine()
    const draft = { ...lineDraft(), price: { model: 'CPM' as const, bidMicros: 1000, maxMicros: null } }
    const { findings } = (await ask('POST', `/lines/${lineId}/preflight`, { line: draft })).body as {
      findings: { field: string; severity: string; fix: { words: string; edits: { field: string; value: number }[] } | null }[]
    }
    const floor = findings.find((finding) => finding.field === 'price.bidMicros')
    expect(floor).toMatchObject({ severity: 'stops' })
    expect(floor?.fix?.words).toContain('dearest floor + 5 %')
    const raised = floor?.fix?.edits[0].value ?? 0
    const after = (await ask('POST', `/lines/${lineId}/preflight`, { line: { ...draft, price: { ...draft.price, bidMicros: raised } } }))
      .body as { findings: { field: string }[] }
    expect(after.findings.filter(({ field }) => field === 'price.bidMicros')).toEqual([])
    expect((await ask('POST', `/lines/${lineId}/preflight`, { line: { ...draft, name: '' } })).body.issues[0].field).toBe('line.name')
  })

  it('finds a picture that no longer fits, and lines of the campaign that look for the same people', async () => {
    const { lineId, campaignId } = await liveLine()
    const mate = (await ask('POST', `/campaigns/${campaignId}/lines`, lineDraft({ name: 'The mate' }))).body as LineView
    await ask('POST', `/lines/${mate.id}/creatives`, formOf(await picture(300, 250), 'a.png'))
    const { findings } = (await ask('GET', `/lines/${mate.id}/live-plan`)).body as { findings: { field: string; message: string }[] }
    expect(findings.some(({ field, message }) => field === 'targeting' && message.includes(`“${lineDraft().name}”`))).toBe(true)
    expect((await line(lineId)).inForce).not.toBeNull()
  })
})
