import { Op, type CreationAttributes } from 'sequelize'
import { attribute } from '@tin-harbor/core/response'
import { areOpen, termOf, type TermName } from '@tin-harbor/core/results'
import { zoneIndex } from '@tin-harbor/core/time'
import { TOLD_OUTCOMES, type ToldOutcomeName } from '@tin-harbor/core/contract'
import { Advertiser } from '../advertisers/advertiser-model.js'
import { Offer } from '../advertisers/offer-model.js'
import { Tracker } from '../advertisers/tracker-model.js'
import { Campaign } from '../campaigns/campaign-model.js'
import { Ad } from '../creatives/creative-model.js'
import { Line } from '../lines/line-model.js'
import { Hit } from './hit-model.js'
import { subjectText, type HitSubject } from './ids.js'
import type { LoggedImpression } from './impressions.js'
import { ToldConversionRow } from './told-conversion-model.js'
import type { Taking, ToldConversion } from './told.js'

/** What is known of a conversion before it counts. */
interface Judged {
  outcome: ToldOutcomeName
  says: string
  by: 'click' | 'view' | null
  term: TermName | null
  line: number | null
  ad: number | null
  person: number | null
}
const NOTHING: Omit<Judged, 'outcome' | 'says'> = { by: null, term: null, line: null, ad: null, person: null }
const judged = (outcome: ToldOutcomeName, more: Partial<Judged> = {}): Judged => ({
  ...NOTHING,
  outcome,
  says: TOLD_OUTCOMES[outcome],
  ...more
})

/** Rows that several conversions of a batch need are read once for it. */
class Known {
  private readonly found = new Map<string, Promise<unknown>>()

  private once<T>(key: string, read: () => Promise<T>): Promise<T> {
    let known = this.found.get(key) as Promise<T> | undefined
    if (!known) this.found.set(key, (known = read()))
    return known
  }
  tracker = (id: number) => this.once(`tracker ${id}`, () => Tracker.findByPk(id))
  advertiser = (id: number) => this.once(`advertiser ${id}`, () => Advertiser.findByPk(id, { rejectOnEmpty: true }))
  offer = (id: number) => this.once(`offer ${id}`, () => Offer.findByPk(id))
  ad = (id: number) => this.once(`ad ${id}`, () => Ad.findByPk(id))
  ownerOf = (line: number) =>
    this.once(`line ${line}`, async () => {
      const found = await Line.findByPk(line, { attributes: ['campaignId'] })
      return found && Campaign.findByPk(found.campaignId, { attributes: ['advertiserId', 'offerId'] })
    })
}

/** Keeps conversions, each once: what counts goes into the next market hour, and what does not says why. */
export async function keepConversions(taking: Taking, told: readonly ToldConversion[]): Promise<void> {
  const there = await ToldConversionRow.findAll({ attributes: ['told'], where: { told: told.map((one) => one.told) } })
  const kept = new Set(there.map((row) => row.told))
  const known = new Known()
  const rows: CreationAttributes<ToldConversionRow>[] = []
  for (const one of told) {
    const tracker = kept.has(one.told) ? null : await known.tracker(one.tracker)
    if (tracker) rows.push(await rowOf({ ...taking, known }, tracker, one))
  }
  await taking.sequelize.transaction(async (transaction) => {
    const seen = new Set<string>()
    const keyOf = ({ trackerId, once }: { trackerId: number; once?: string | null }) => `${trackerId} ${once}`
    const look = async (once: readonly string[]) => {
      if (once.length === 0) return
      const trackerId = [...new Set(rows.map((row) => row.trackerId))]
      const where = { trackerId, once: [...once] }
      for (const row of await ToldConversionRow.findAll({ attributes: ['trackerId', 'once'], where, transaction })) seen.add(keyOf(row))
    }
    await look(rows.flatMap(({ once }) => once ?? []))
    const first: typeof rows = []
    const again: typeof rows = []
    for (const row of rows) {
      const isDouble = row.once != null && seen.has(keyOf(row))
      if (row.once != null) seen.add(keyOf(row))
      if (isDouble) again.push(row)
      else first.push(row)
    }
    await look(again.flatMap(({ once }) => doublesOf(once ?? '')))
    for (const row of again) {
      const once = doublesOf(row.once ?? '').find((one) => !seen.has(keyOf({ ...row, once: one })))
      if (once === undefined) continue
      seen.add(keyOf({ ...row, once }))
      first.push({ ...row, outcome: 'double', says: TOLD_OUTCOMES.double, term: null, earnedBy: null, once })
    }
    await ToldConversionRow.bulkCreate(first, { transaction })
  })
}

/** Doubles that are noted of one: whoever says it more often says nothing new. */
const MOST_DOUBLES = 20
const doublesOf = (once: string) => Array.from({ length: MOST_DOUBLES }, (_, n) => `${once} again ${n + 1}`)

async function rowOf(judging: Judging, tracker: Tracker, one: ToldConversion): Promise<CreationAttributes<ToldConversionRow>> {
  const subject = one.click === '' ? null : judging.ids.read(one.click)
  const found = one.refused ? judged(one.refused.outcome, { says: one.refused.says }) : await judge(judging, tracker, subject, one)
  // Previews and tests are told from what counts, and among themselves still once.
  const counting = { waits: '', preview: 'preview ', test: 'test ' } as Readonly<Partial<Record<ToldOutcomeName, string>>>
  const kind = counting[found.outcome]
  const what = one.transaction === '' ? `click ${subject ? subjectText(subject) : ''}` : `transaction ${one.transaction}`
  return {
    told: one.told,
    trackerId: tracker.id,
    how: one.how,
    outcome: found.outcome,
    says: found.says,
    term: found.term,
    earnedBy: found.by,
    click: one.click.slice(0, 200),
    subject: subject ? subjectText(subject) : null,
    hour: subject?.kind === 'impression' ? subject.hour : null,
    place: subject?.kind === 'impression' ? subject.place : null,
    lineId: found.line,
    adId: found.ad,
    person: found.person,
    transactionId: one.transaction,
    once: kind === undefined ? null : `${kind}${what}`,
    valueMicros: one.valueMicros ?? tracker.valueMicros ?? 0,
    page: one.page,
    toldAt: one.toldAt,
    enteredHour: null
  }
}

interface Judging extends Taking {
  known: Known
}

async function judge(judging: Judging, tracker: Tracker, subject: HitSubject | null, one: ToldConversion): Promise<Judged> {
  if (one.click === '') return judged('no click')
  if (!subject) return judged('not ours', { says: 'Nobody of ours signed this click id.' })
  switch (subject.kind) {
    case 'test':
      return subject.tracker === tracker.id
        ? judged('test', { by: 'click' })
        : judged('elsewhere', { says: 'It is a test of another tracker.' })
    case 'preview':
      return ofPreview(judging, tracker, subject, one.toldAt)
    case 'impression': {
      const impression = await judging.impressions.of(subject.hour, subject.place)
      return impression ? ofImpression(judging, tracker, impression) : judged('not ours', { says: 'No such impression was bought.' })
    }
  }
}

/** What it would be of an impression, by what was told of the preview: the windows are those of the tracker, in real time. */
async function ofPreview(
  { known }: Judging,
  tracker: Tracker,
  subject: Extract<HitSubject, { kind: 'preview' }>,
  toldAt: number
): Promise<Judged> {
  const ad = await known.ad(subject.ad)
  const whose = ad && (await known.ownerOf(ad.lineId))
  if (whose?.advertiserId !== tracker.advertiserId) return judged('elsewhere', { says: 'It is of an ad of another advertiser.' })
  const hits = await Hit.findAll({ where: { subject: subjectText(subject), event: { [Op.in]: ['click', 'viewable', 'impression'] } } })
  const touches = hits
    .map((hit) => ({
      minute: Math.floor(hit.toldAt / 60),
      clicked: hit.event === 'click',
      viewable: hit.event !== 'click',
      hour: 0,
      index: hit.id
    }))
    .sort((a, b) => a.minute - b.minute || a.index - b.index)
  const earned = attribute(touches, Math.floor(toldAt / 60), tracker)
  const whom = { line: ad?.lineId ?? null, ad: subject.ad }
  return earned
    ? judged('preview', { ...whom, by: earned.by })
    : judged('preview', { ...whom, says: 'of a preview: counts nowhere, and would be outside the window' })
}

async function ofImpression({ known }: Judging, tracker: Tracker, { line, ad, person, seen }: LoggedImpression): Promise<Judged> {
  const whose = await known.ownerOf(line)
  if (whose?.advertiserId !== tracker.advertiserId) return judged('elsewhere', { says: 'It is of an ad of another advertiser.' })
  const offer = whose.offerId === null ? null : await known.offer(whose.offerId)
  const terms = offer?.terms.terms
  const advertiser = await known.advertiser(tracker.advertiserId)
  const term = terms && !areOpen(terms) ? termOf(terms, zoneIndex(advertiser.zone))(seen) : null
  return judged('waits', { line, ad, person, term })
}
