import { once } from 'node:events'
import { pino } from 'pino'
import sharp from 'sharp'
import type { LineDraft } from '@tin-harbor/core/buying'
import type { LineView } from '@tin-harbor/core/contract'
import { startServer, type RunningServer } from '../../src/server.js'
import { DEMO_PASSWORD } from '../../src/demo/scenario.js'
import { TENTH } from '@tin-harbor/core/market'
import { copyTemplate, makeSchema } from '../../../scripts/test-server.mjs'
import { TEMPLATE, TEMPLATE_PEOPLE } from './template.js'

export interface Answer<T = any> {
  status: number
  body: T
  headers: Headers
}

export type Ask = <T = any>(method: string, path: string, body?: unknown, headers?: Record<string, string>) => Promise<Answer<T>>

export interface TestServer extends RunningServer {
  /** A signed-in user's calls. @param address where they go, if not to this server */
  as: (email: string, address?: string) => Promise<Ask>
  /** The same, with the cookie for what is no call of the interface. */
  signIn: (email: string) => Promise<{ ask: Ask; cookie: string }>
  /** Calls of nobody. */
  nobody: Ask
  url: string
}

/**
 * Starts the real server on a schema of its own, with the demo at a hundredth of the final scale: on a copy of what was made once for
 * all, or on another database server from nothing.
 */
export async function testServer(
  name: string,
  base = process.env.TEST_DATABASE_URL,
  review: 'working hours' | 'at once' = 'at once'
): Promise<TestServer> {
  if (!base) throw new Error('TEST_DATABASE_URL is not set; run the tests with `npm test`.')
  const url = new URL(base)
  const schema = `test_${name}`
  const tapes = base === process.env.TEST_DATABASE_URL ? await copyTemplate(base, TEMPLATE, schema) : null
  url.pathname = `/${schema}`
  if (tapes === null) await makeSchema(url.href)
  const server = await startServer(
    {
      databaseUrl: url.href,
      port: 0,
      ports: 1,
      instance: name,
      world: { ...TENTH, people: TEMPLATE_PEOPLE },
      demo: 'small',
      review,
      tapes,
      pages: null,
      address: null,
      mail: null,
      logLevel: 'silent',
      checksAnswers: true
    },
    () => undefined,
    pino({ level: process.env.TEST_LOG ?? 'silent' })
  )
  const { pool, tapes: builder } = server.deps
  if (!pool.isReady) await once(builder, 'tape')
  const nobody = asker(server.address, '')
  const signIn = async (email: string) => {
    const answer = await nobody('POST', '/session', { email, password: DEMO_PASSWORD })
    const cookie = (answer.headers.get('set-cookie') ?? '').split(';')[0]
    return { ask: asker(server.address, cookie), cookie }
  }
  return {
    ...server,
    nobody,
    url: url.href,
    signIn,
    as: async (email, address = server.address) => asker(address, (await signIn(email)).cookie)
  }
}

function asker(address: string, cookie: string): Ask {
  return async (method, path, body, headers = {}) => {
    const isForm = body instanceof FormData
    const response = await fetch(`${address}/api${path}`, {
      method,
      body: body === undefined ? undefined : isForm ? body : JSON.stringify(body),
      headers: {
        origin: address,
        ...(cookie ? { cookie } : {}),
        ...(body === undefined || isForm ? {} : { 'content-type': 'application/json' }),
        ...headers
      }
    })
    const text = await response.text()
    if (response.headers.get('content-type')?.includes('ndjson'))
      return {
        status: response.status,
        headers: response.headers,
        body: text
          .trim()
          .split('\n')
          .map((line) => JSON.parse(line) as unknown) as never
      }
    return {
      status: response.status,
      headers: response.headers,
      body: text.startsWith('{') || text.startsWith('[') ? JSON.parse(text) : text
    }
  }
}

export const TRADER = 'ines@wharfside.example'
export const READER = 'rui@wharfside.example'
export const ADMIN = 'marta@wharfside.example'

/** A line that is ready to go live but for its creatives. */
export function lineDraft(over: Partial<LineDraft> = {}): LineDraft {
  return {
    name: 'Display, phones, GB',
    format: 'display',
    zone: 'Europe/Lisbon',
    targeting: {
      restrictions: [
        { dimension: 'where', mode: 'include', values: ['GB', 'FR', 'DE'] },
        { dimension: 'device', mode: 'include', values: ['phone'] },
        { dimension: 'size', mode: 'include', values: ['300x250'] }
      ]
    },
    price: { model: 'CPM', bidMicros: 2_500_000, maxMicros: 3_000_000 },
    flight: { startDate: '2026-03-02', endDate: '2026-03-20' },
    budget: { dailyMicros: 300_000, totalMicros: null },
    pacing: 'even',
    caps: [{ times: 2, hours: 24 }],
    landing: 'https://inkwell.example/kana',
    onceCleared: 'start',
    ...over
  }
}

export const campaignDraft = (over = {}) => ({
  name: 'Thirty-day trial',
  goal: 'visits',
  flight: { startDate: '2026-03-02', endDate: '2026-03-31' },
  budget: { totalMicros: 40_000_000, dailyMicros: 2_000_000 },
  ...over
})

/** A picture with something to be seen on it. */
export async function picture(width: number, height: number, type: 'png' | 'jpeg' = 'png'): Promise<Buffer> {
  const band = { create: { width: Math.ceil(width / 3), height, channels: 3 as const, background: '#fbfaf5' } }
  const image = sharp({ create: { width, height, channels: 3, background: '#14313a' } }).composite([{ input: band, left: 0, top: 0 }])
  return type === 'png' ? image.png().toBuffer() : image.jpeg().toBuffer()
}

export function formOf(data: Buffer, name: string): FormData {
  const form = new FormData()
  form.append('file', new Blob([new Uint8Array(data)]), name)
  return form
}

/** A draft line of the third advertiser with one creative; returns its number and version. */
export async function readyLine(
  ask: Ask,
  over: Partial<LineDraft> = {},
  campaign = {}
): Promise<{ lineId: number; campaignId: number; version: number }> {
  const campaignId = (await ask('POST', '/advertisers/3/campaigns', campaignDraft(campaign))).body.id as number
  const { body } = await ask('POST', `/campaigns/${campaignId}/lines`, lineDraft(over))
  const added = await ask('POST', `/lines/${body.id}/creatives`, formOf(await picture(300, 250), 'kana.png'))
  return { lineId: body.id as number, campaignId, version: added.body.version as number }
}

let tokens = 0
export const newToken = () => `test-token-${++tokens}-${Date.now()}`

/** A line with two ads for one slot. */
export async function twoAds(ask: Ask): Promise<{ id: number; ads: [number, number] }> {
  const { lineId: id } = await readyLine(ask)
  const { body } = await ask<LineView>('POST', `/lines/${id}/creatives`, formOf(await picture(300, 250), 'second.png'))
  return { id, ads: [body.ads[0].id, body.ads[1].id] }
}
