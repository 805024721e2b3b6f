import { effectScope, type EffectScope } from 'vue'
import { createPinia, setActivePinia } from 'pinia'
import { vi } from 'vitest'
import type { LineDraft, LineView } from '@tin-harbor/core/buying'
import type { Forecast } from '@tin-harbor/core/forecast'

/** What a request was answered with, or would be. */
export interface Reply {
  status?: number
  body?: unknown
}

export interface Request {
  method: string
  path: string
  body: any
  signal: AbortSignal | undefined
  /** Answers the request now. */
  reply: (reply: Reply) => Promise<void>
  wasAborted: boolean
}

/** Stands in for the network: every request waits until the test answers it. */
export function fakeNetwork(): Request[] {
  const requests: Request[] = []
  vi.stubGlobal('fetch', (url: string, init: RequestInit = {}) => new Promise<Response>((resolve, reject) => {
    const request: Request = {
      method: init.method ?? 'GET', path: url.replace('/api', ''), body: typeof init.body === 'string' ? JSON.parse(init.body) : init.body,
      signal: init.signal ?? undefined, wasAborted: false,
      reply: async ({ status = 200, body }) => {
        resolve(new Response(body === undefined ? null : JSON.stringify(body), { status: body === undefined && status === 200 ? 204 : status }))
        await settle()
      }
    }
    init.signal?.addEventListener('abort', () => {
      request.wasAborted = true
      reject(new DOMException('given up', 'AbortError'))
    })
    requests.push(request)
  }))
  return requests
}

/** Lets promises that are ready go on. */
export async function settle(): Promise<void> {
  for (let n = 0; n < 12; n++) await Promise.resolve()
}

/** Runs a composable outside a component; ending the scope is leaving the page. */
export function inScope<T>(make: () => T): { result: T; scope: EffectScope } {
  setActivePinia(createPinia())
  const scope = effectScope()
  return { result: scope.run(make) as T, scope }
}

export function draftOf(over: Partial<LineDraft> = {}): LineDraft {
  return {
    name: 'Display, phones, PT', format: 'display', zone: 'Europe/Lisbon', targeting: { restrictions: [] }, price: { model: 'CPM', bidMicros: 2_000_000, maxMicros: null },
    flight: { startDate: '2026-03-02', endDate: null }, budget: { dailyMicros: 4_000_000, totalMicros: null }, pacing: 'even', caps: [], landing: '', onceCleared: 'start', ...over
  }
}

export function viewOf(draft = draftOf(), over: Partial<LineView> = {}): LineView {
  return { id: 7, code: 'L-7', campaignId: 3, advertiserId: 1, draft, state: 'draft', waits: false, version: 1, ads: [], inForce: null, serving: '', ...over }
}

/** A forecast in which only the wins a day matter. */
export function forecastOf(wins: number, over: Partial<Forecast> = {}): Forecast {
  const figures = { matched: wins * 2, wins, spendMicros: wins * 1000, cpmMicros: 1_000_000, reach: wins / 2, frequency: 2 }
  return {
    winRate: 0.5, ranks: { first: 0.5, second: 0.2, lower: 0.3 }, eligibleShare: 0.9, day: figures,
    flight: { ...figures, days: 7, replayedDays: 7, open: false, people: [3, 2, 1, 0, 0, 0, 0, 0, 0, 0] }, demandMicros: 5_000_000, budgetBinds: false, tapeWins: 100,
    tape: { firstDay: 46, days: 14 }, ...over
  }
}
