import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http'
import type { AddressInfo } from 'node:net'
import { CREATIVE_KINDS } from '@tin-harbor/core/creative'
import { parseInput, yup } from '@tin-harbor/core/input'
import { REVIEWERS, WRITTEN_RULES, afterWorking, publisherFindings, reviewFindings, type Reviewed } from '@tin-harbor/core/review'
import { STREAM, hash } from '@tin-harbor/core/random'
import { bodyOf } from './body.js'
import { lookAt } from '../fetching/page.js'
import { OFFICES, hoursToAnswer, refusedBranches } from './deal-office.js'

const said = () => yup.string().max(5000).defined()
const reviewedSchema = yup
  .object({
    kind: yup.string().oneOf(CREATIVE_KINDS).required(),
    name: said(),
    advertiser: said(),
    domain: said(),
    texts: yup
      .array()
      .of(yup.object({ part: said(), text: said() }).required())
      .max(50)
      .defined(),
    outside: yup.array().of(said()).max(50).defined(),
    tones: yup
      .array()
      .of(yup.object({ part: said(), contrast: yup.number().required() }).required())
      .max(20)
      .defined(),
    links: yup.array().of(said()).max(1000).defined(),
    about: yup.string().nullable().defined(),
    note: said()
  })
  .required()
const bodySchema = yup.object({
  hour: yup.number().integer().required(),
  ads: yup
    .array()
    .of(
      yup
        .object({
          review: yup.number().integer().required(),
          sentHour: yup.number().integer().required(),
          publisher: yup.number().integer().nullable().defined(),
          reviewed: reviewedSchema
        })
        .required()
    )
    .max(200, 'At most 200 ads at once.')
    .required()
})

/** What was decided of an ad; one that nobody looked at yet is left out. */
export type ReviewAnswer = { review: number; hour: number; state: 'cleared' | 'refused'; findings: ReturnType<typeof reviewFindings> }

export interface Reviewer {
  address: string
  /** Whether it answers what it is asked as it is asked, whatever the hour. */
  isAtOnce: boolean
  /** Reviews that it takes its time over all the same. */
  takesTime: Set<number>
  close: () => Promise<void>
}

/**
 * The stand-in for whoever reviews ads, and for publishers who look at those of their deals: an HTTP service on loopback.
 * `GET /rules`: the rules as they are written. `POST /reviews`: ads, each with when it was sent, and the market hour that it is; answered
 * with those that were looked at by then, in one to four working hours. It looks at links itself.
 */
export async function startReviewer(seed: number, { isAtOnce }: { isAtOnce: boolean }): Promise<Reviewer> {
  const reviewer: Pick<Reviewer, 'isAtOnce' | 'takesTime'> = { isAtOnce, takesTime: new Set() }
  const answeredAt = (review: number, sentHour: number, publisher: number | null) => {
    if (reviewer.isAtOnce && !reviewer.takesTime.has(review)) return sentHour
    if (publisher !== null) return afterWorking(sentHour, hoursToAnswer(seed, publisher), OFFICES)
    return afterWorking(sentHour, 1 + (hash(seed, STREAM.deal, 20, review, sentHour) % REVIEWERS.most), REVIEWERS)
  }
  async function decide({ ads, hour }: yup.InferType<typeof bodySchema>): Promise<ReviewAnswer[]> {
    const due = ads.filter(({ review, sentHour, publisher }) => answeredAt(review, sentHour, publisher) <= hour)
    const seen = new Map<string, Awaited<ReturnType<typeof lookAt>>>()
    for (const link of new Set(due.flatMap(({ reviewed }) => reviewed.links))) seen.set(link, await lookAt(link))
    return due.map(({ review, sentHour, publisher, reviewed }) => {
      const links = reviewed.links.flatMap((link) => seen.get(link) ?? [])
      const ad: Reviewed = reviewed
      const findings = publisher === null ? reviewFindings(ad, links) : publisherFindings(ad, links, refusedBranches(seed, publisher))
      return { review, hour: answeredAt(review, sentHour, publisher), state: findings.length > 0 ? 'refused' : 'cleared', findings }
    })
  }
  async function serve(request: IncomingMessage, response: ServerResponse): Promise<void> {
    const say = (status: number, body: object) =>
      response.writeHead(status, { 'content-type': 'application/json' }).end(JSON.stringify(body))
    if (request.method === 'GET' && request.url === '/rules') return void say(200, { rules: WRITTEN_RULES })
    if (request.method !== 'POST' || request.url !== '/reviews') return void say(404, { message: 'Nobody here decides about that.' })
    say(200, { answers: await decide(parseInput(bodySchema, await bodyOf(request))) })
  }
  const server: Server = createServer((request, response) => {
    serve(request, response).catch((error: unknown) => response.writeHead(422).end(JSON.stringify({ message: (error as Error).message })))
  })
  await new Promise<void>((resolve, reject) => server.once('error', reject).listen(0, '127.0.0.1', resolve))
  return Object.assign(reviewer, {
    address: `http://127.0.0.1:${(server.address() as AddressInfo).port}`,
    close: () =>
      new Promise<void>((resolve) => {
        server.closeAllConnections()
        server.close(() => resolve())
      })
  })
}
