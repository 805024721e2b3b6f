import { effectScope, type EffectScope } from 'vue'
import { createPinia, setActivePinia } from 'pinia'
import { vi } from 'vitest'
import { createMemoryHistory, createRouter, type Router } from 'vue-router'
import type { LineDraft, FixableFinding } from '@tin-harbor/core/buying'
import type { CampaignView, LineView, ManifestLine, SurveyRowView, SurveyView } from '@tin-harbor/core/contract'
import type { Ladder, MainFigures, Ranged, Sieve, SurveyBy } from '@tin-harbor/core/forecast'
import { useMarket } from '@/stores/market'
import { useSession } from '@/stores/session'

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
  vi.stubGlobal(
    'fetch',
    (url: string, init: RequestInit = {}) =>
      new Promise<Response>((resolve, reject) => {
        const request: Request = {
          method: init.method ?? 'GET',
          path: url.replace('/api', ''),
          body: typeof init.body === 'string' ? JSON.parse(init.body) : init.body,
          signal: init.signal ?? undefined,
          wasAborted: false,
          reply: async ({ status = 200, body }) => {
            resolve(
              new Response(body === undefined ? null : typeof body === 'string' ? body : JSON.stringify(body), {
                status: body === undefined && status === 200 ? 204 : status
              })
            )
            await settle()
          }
        }
        init.signal?.addEventListener('abort', () => {
          request.wasAborted = true
          reject(new DOMException('given up', 'AbortError'))
        })
        requests.push(request)
      })
  )
  return requests
}

/**
 * The trader signed in, on Monday 2 March 2026, ten in the morning, UTC, with stores, a network and a router of their own.
 * @param paths empty pages by name
 */
export function traderAt(paths: Readonly<Record<string, string>>): { requests: Request[]; router: Router } {
  setActivePinia(createPinia())
  const requests = fakeNetwork()
  useSession().user = { id: 1, formats: null, name: 'Inês', email: 'i@x.example', role: 'trader' }
  useMarket().run = { running: false, hour: 1450, fromHour: 1450, targetHour: 1450, wins: 0, spendMicros: 0, trouble: null, playing: false }
  const component = { template: '<i />' }
  // Pages that others lead to from where they stand.
  const common = { sold: '/campaigns/sold/:advertiserId', review: '/campaigns/review' }
  const routes = Object.entries({ ...common, ...paths }).map(([name, path]) => ({ path, name, component }))
  return { requests, router: createRouter({ history: createMemoryHistory(), routes }) }
}

/** Of the runner, which has no types of a browser. */
const immediate = (globalThis as unknown as { setImmediate: (go: () => void) => void }).setImmediate
/**
 * Lets promises that are ready go on, and the reading of an answer's body, which takes turns of the loop; clocks may
 * stand still meanwhile.
 */
export async function settle(): Promise<void> {
  for (let turn = 0; turn < 4; turn++) {
    for (let n = 0; n < 12; n++) await Promise.resolve()
    await new Promise<void>((resolve) => immediate(resolve))
  }
}

/** Until the page was painted once more: charts are drawn after it. */
export const painted = () => new Promise<void>((resolve) => requestAnimationFrame(() => setTimeout(resolve, 1)))

/** Runs a composable outside a component; ending the scope is leaving the page. */
export function inScope<T>(make: () => T): { result: T; scope: EffectScope } {
  setActivePinia(createPinia())
  const scope = effectScope()
  return { result: scope.run(make) as T, scope }
}

export function draftOf(over: Partial<LineDraft> = {}): LineDraft {
  return {
    name: 'Display, phones, PT',
    format: 'display',
    zone: 'Europe/Lisbon',
    targeting: { restrictions: [] },
    price: { model: 'CPM', bidMicros: 2_000_000, maxMicros: null },
    flight: { startDate: '2026-03-02', endDate: null },
    budget: { dailyMicros: 4_000_000, totalMicros: null },
    pacing: 'even',
    caps: [],
    landing: '',
    onceCleared: 'start',
    ...over
  }
}

export function viewOf(draft = draftOf(), over: Partial<LineView> = {}): LineView {
  return {
    id: 7,
    code: 'L-7',
    campaignId: 3,
    advertiserId: 1,
    draft,
    state: 'draft',
    waits: false,
    version: 1,
    ads: [],
    reviews: [],
    inForce: null,
    serving: '',
    learning: '',
    tags: [],
    template: false,
    copiedFrom: null,
    ...over
  }
}

const ranged = (value: number): Ranged => ({ value, low: value * 0.9, high: value * 1.1 })
const exact = (value: number): Ranged => ({ value, low: value, high: value })

export function periodOf(wins: number, matched = wins * 2): MainFigures['day'] {
  return {
    matched: exact(matched),
    eligible: exact(matched * 0.9),
    wins: ranged(wins),
    spend: ranged(wins * 1000),
    winRate: exact(0.5),
    winShare: exact(0.5),
    cpm: exact(1_000_000),
    reach: exact(wins / 2),
    frequency: exact(2),
    views: exact(wins * 0.6),
    visits: exact(wins / 500),
    conversions: exact(0),
    people: [3, 2, 1, 0, 0, 0, 0, 0, 0, 0]
  }
}

/** Main figures in which only the wins a day matter. */
export function figuresOf(wins: number, over: Partial<MainFigures> = {}): MainFigures {
  return {
    ranks: { first: exact(0.5), second: exact(0.2), lower: exact(0.3) },
    day: periodOf(wins),
    flight: { ...periodOf(wins), days: 7, replayedDays: 7, open: false, firstDay: 60 },
    demandMicros: 5_000_000,
    binding: { kind: 'bid' },
    tapeWins: 100,
    tooFew: false,
    ownPricedADay: 0,
    tape: { firstDay: 46, days: 14 },
    ...over
  }
}

export const LADDER: Ladder = {
  rungs: [0.5, 1, 2, 4].map((bid, n) => ({
    bidMicros: bid * 1_000_000,
    wins: 100 * (n + 1),
    spendMicros: 1e5,
    reach: 50,
    budgetWins: [100, 200, 180, 90][n],
    budgetSpendMicros: 1e5
  })),
  current: 2,
  marks: { lowestFloor: 600_000, mostFloors: 900_000, enters: 700_000, half: 1_500_000, nineInTen: 3_900_000 },
  ownPricedADay: 0,
  every: 1
}
export const SIEVE: Sieve = {
  all: 9000,
  allPrice: 800_000,
  emptiedBy: null,
  shares: [],
  steps: [
    { restriction: { dimension: 'where', mode: 'include', values: ['PT'] }, left: 4000, price: 900_000, lifted: 700, liftedPrice: 500_000 },
    { restriction: 'hours', left: 3000, price: 950_000, lifted: 0, liftedPrice: 0 }
  ]
}

export const manifestLine = (id: number, over: Partial<ManifestLine> = {}): ManifestLine => ({
  id,
  code: `L-${id}`,
  campaignId: 3,
  name: `Line ${id}`,
  state: 'draft',
  waits: false,
  tags: [],
  template: false,
  format: 'display',
  staged: false,
  startDate: '2026-03-05',
  endDate: '2026-03-12',
  spentMicros: 0,
  plannedMicros: null,
  dueMicros: null,
  possible: null,
  ...over
})

export const CAMPAIGN: CampaignView = {
  id: 3,
  code: 'C-3',
  advertiserId: 1,
  name: 'Spring',
  goal: 'visits',
  flight: { startDate: '2026-03-02', endDate: '2026-03-31' },
  budget: { totalMicros: 40_000_000, dailyMicros: null },
  caps: [],
  version: 5
}

export const finding = (over: Partial<FixableFinding> = {}): FixableFinding => ({
  severity: 'warns',
  field: 'caps',
  message: 'Without a cap.',
  fix: { words: 'Cap it', edits: [], adds: [] },
  ...over
})

/** What a row of a survey says of so many opportunities a day. */
export const traffic = (opportunitiesADay: number, half = 1_000_000): Omit<SurveyRowView, 'key' | 'label'> => ({
  opportunitiesADay,
  people: opportunitiesADay * 5,
  floorMicros: 100_000,
  mostFloorsMicros: null,
  meanMicros: 1_100_000,
  highestMicros: 9_000_000,
  rivals: 1.8,
  entersMicros: 300_000,
  halfMicros: half,
  nineInTenMicros: 4_000_000,
  winRate: 0.4,
  viewability: 0.6,
  bots: 0.05,
  blocked: 0,
  stays: 0.3,
  grade: 'B',
  direct: 0.5,
  conversionRate: 0.0002
})

export const surveyRow = (key: number, label: string, aDay = 1000, over: Partial<SurveyRowView> = {}): SurveyRowView => ({
  key,
  label,
  code: `p${key}.example`,
  ...traffic(aDay),
  ...over
})

/** An answer of the survey with such rows. */
export const surveyOf = (groups: [SurveyBy, SurveyRowView[]][], over: Partial<SurveyView> = {}): SurveyView => ({
  total: { ...traffic(5000), mostFloorsMicros: 400_000 },
  groups: groups.map(([by, rows]) => ({ by, rows })),
  week: {
    opportunities: new Array<number>(168).fill(10),
    halfMicros: new Array<number>(168).fill(1e6),
    rivals: new Array<number>(168).fill(1)
  },
  curve: [
    { bidMicros: 100_000, share: 0.1 },
    { bidMicros: 2_000_000, share: 1 }
  ],
  overlap: [],
  every: 1,
  emptiedBy: null,
  ...over
})
