import type { Transaction } from 'sequelize'
import { LIST_KINDS, type LineDraft, type ListKind } from '@tin-harbor/core/buying'
import { withRestriction } from '@tin-harbor/core/targeting'
import { dayOfHour } from '@tin-harbor/core/time'
import { withNamedLock } from '../database/named-lock.js'
import { Advertiser } from '../advertisers/advertiser-model.js'
import { Offer } from '../advertisers/offer-model.js'
import { Campaign } from '../campaigns/campaign-model.js'
import { SetupStep } from '../database/setup-step-model.js'
import { MarketState } from '../exchange/market-model.js'
import { Publication } from '../going-live/publication-model.js'
import { Line } from '../lines/line-model.js'
import { LedgerEntry } from '../money/ledger-model.js'
import { Organisation, User, UserAdvertiser } from '../team/user-model.js'
import { hashPassword } from '../security/passwords.js'
import { now, type Actor } from '../security/sessions.js'
import { createCampaign, findCampaign } from '../campaigns/campaigns.js'
import { addFile, addMade } from '../creatives/creatives.js'
import { MadeCreative } from '../creatives/made-creative-model.js'
import type { Deps } from '../deps.js'
import { takeData } from '../files/library.js'
import { adsOf } from '../lines/ads-shown.js'
import { createLine, findLine, saveLine } from '../lines/lines.js'
import { labelLine } from '../lines/line-work.js'
import { SavedList } from '../lists/list-model.js'
import { changeAtPlacements, moveLine } from '../going-live/moving-lines.js'
import { resultsOf } from '../results/results.js'
import { AdReview } from '../review/review-model.js'
import { Slip } from '../slips/slip-model.js'
import { createSlip } from '../slips/slips.js'
import { putLive } from '../going-live/putting-live.js'
import { readMarket } from '../going-live/publications.js'
import type { StartProgress } from '../start-progress.js'
import { shelveDemoFiles } from './demo-files.js'
import { makeMarketObjects } from './market-objects.js'
import { drawPicture, type Scene } from './pictures.js'
import { FULL_SCENARIO } from './full-scenario.js'
import { SMALL } from './small-scenario.js'
import { ADVERTISERS, DEMO_HOUR, DEMO_PASSWORD, type Deed, type DemoCampaign, type DemoLine, type Scenario } from './scenario.js'

const SCENARIOS = { full: FULL_SCENARIO, small: SMALL } as const
/** Who makes the campaigns. */
const BUYER = 'ines@wharfside.example'

/**
 * Sets up the demo by doing what a team would do: sign people up, pay money in, make campaigns, put them live, run the market, look at
 * what came and change it. Steps that are done are kept, so that a start that was cut off goes on.
 */
export async function setUpDemo(deps: Deps, progress: StartProgress): Promise<void> {
  // Two servers that start at once on one database take turns; the second finds all steps done.
  await withNamedLock(deps.configuration.databaseUrl, 'tin_harbor_demo', 600, () => takeSteps(deps, progress))
}

async function takeSteps(deps: Deps, progress: StartProgress): Promise<void> {
  const scenario = SCENARIOS[deps.configuration.demo]
  const done = new Set((await SetupStep.findAll()).map((step) => step.name))
  // One that an earlier version made is left as it is.
  if (done.has('draft campaign')) return
  const note = (name: string, transaction: Transaction) => SetupStep.create({ name }, { transaction })
  /** A step that is kept with its note or not at all. */
  const whole = async (name: string, make: (transaction: Transaction) => Promise<void>) => {
    if (!done.has(name))
      await deps.sequelize.transaction(async (transaction) => {
        await make(transaction)
        await note(name, transaction)
      })
  }
  /** A step of many transactions, each of which looks first whether it is done. */
  const resumed = async (name: string, make: () => Promise<void>) => {
    if (done.has(name)) return
    await make()
    await deps.sequelize.transaction((transaction) => note(name, transaction))
  }
  const passwordHash = await hashPassword(DEMO_PASSWORD)
  await whole('account', (transaction) => makeAccount(deps, scenario, passwordHash, transaction))
  await whole('market objects', async (transaction) => {
    const { id } = await Organisation.findOne({ order: [['id', 'ASC']], rejectOnEmpty: true, transaction })
    const files = await shelveDemoFiles(deps.store, transaction)
    await makeMarketObjects(deps.catalogue, id, scenario.creatives, files, transaction)
  })
  if (!done.has('demo')) await tapeFor(deps, (await readMarket()).hour, (share) => progress('tape', share))
  for (const hour of hoursOf(scenario)) {
    const steps = stepsAt(deps, scenario, hour).filter(({ name }) => !done.has(name))
    if (steps.length === 0) continue
    await runTo(deps, hour, (now) => progress('history', (now - scenario.from) / (DEMO_HOUR - scenario.from)))
    for (const { name, make } of steps) await resumed(name, make)
  }
  await whole('demo', () => Promise.resolve())
}

/** Hours at which somebody does something, and the last. */
function hoursOf({ from, campaigns, deeds }: Scenario): number[] {
  const live = campaigns.flatMap(({ lines }) => lines.flatMap(({ liveFrom }) => liveFrom ?? []))
  return [...new Set([from, ...live, ...deeds.map(({ hour }) => hour), DEMO_HOUR])].sort((a, b) => a - b)
}

/** What is done at an hour: lines that go live then, with their campaigns; deeds; and drafts, once the demo begins. */
function stepsAt(deps: Deps, { campaigns, deeds }: Scenario, hour: number): { name: string; make: () => Promise<void> }[] {
  return [
    ...campaigns.flatMap((campaign, c) =>
      campaign.lines
        .map((line, n) => ({ line, name: `campaign ${c} line ${n}` }))
        .filter(({ line }) => (line.liveFrom ?? DEMO_HOUR) === hour)
        .map(({ line, name }) => ({ name, make: () => makeLine(deps, campaign, line) }))
    ),
    ...deeds.flatMap((deed, n) => (deed.hour === hour ? [{ name: `deed ${n}`, make: () => doDeed(deps, deed) }] : []))
  ]
}

async function makeAccount(
  { configuration }: Deps,
  { users, from, moneyInMicros }: Scenario,
  passwordHash: string,
  transaction: Transaction
): Promise<void> {
  // One that an earlier version left without its note.
  if (await Organisation.findOne({ transaction })) return
  const organisation = await Organisation.create({ name: 'Wharfside', currency: 'EUR', zone: 'Europe/Lisbon' }, { transaction })
  const numbers = new Map<string, number>()
  for (const advertiser of ADVERTISERS) {
    numbers.set(advertiser.name, (await Advertiser.create({ ...advertiser, organisationId: organisation.id }, { transaction })).id)
  }
  for (const { name, email, role, sees } of users) {
    const user = await User.create(
      { name, email, role, passwordHash, organisationId: organisation.id, allAdvertisers: sees === 'all' },
      { transaction }
    )
    for (const advertiser of sees === 'all' ? [] : sees) {
      await UserAdvertiser.create({ userId: user.id, advertiserId: numbers.get(advertiser) as number }, { transaction })
    }
  }
  const publication = await Publication.create({ fromHour: from, campaigns: [], madeBy: null, madeAt: now() }, { transaction })
  const { seed, people, sample } = configuration.world
  await MarketState.create(
    { id: 1, organisationId: organisation.id, hour: from, publicationId: publication.id, targetHour: null, seed, people, sample },
    { transaction }
  )
  await LedgerEntry.create(
    {
      organisationId: organisation.id,
      kind: 'top-up',
      hour: from,
      advertiserId: null,
      amountMicros: moneyInMicros,
      note: 'Bank transfer',
      madeBy: null
    },
    { transaction }
  )
}

/** A user of the demo, as they act. */
async function actorOf(wanted: string): Promise<Actor> {
  const { id, name, email, role, organisationId } = await User.findOne({ where: { email: wanted }, rejectOnEmpty: true })
  const advertisers = (await Advertiser.findAll({ attributes: ['id'], where: { organisationId } })).map((advertiser) => advertiser.id)
  return { id, name, email, role, organisationId, advertisers }
}

async function makeLine(deps: Deps, { advertiser, draft }: DemoCampaign, wanted: DemoLine): Promise<void> {
  const { sequelize } = deps
  const actor = await actorOf(BUYER)
  const { id: advertiserId } = await Advertiser.findOne({ where: { name: advertiser }, rejectOnEmpty: true })
  const existing = await Campaign.findOne({ where: { advertiserId, name: draft.name } })
  const offer = await Offer.findOne({ where: { advertiserId }, order: [['id', 'ASC']] })
  const sells = { ...draft, offerId: draft.offerId ?? offer?.id ?? null }
  const campaignId = existing?.id ?? (await createCampaign(sequelize, actor, advertiserId, sells)).id
  const made = (await Line.findAll({ where: { campaignId } })).find((other) => other.draft.name === wanted.draft.name)
  const lineId = made?.id ?? (await createLine(sequelize, actor, await findCampaign(campaignId), await followed(wanted)))
  const ads = await adsOf(lineId)
  for (const size of (wanted.sizes ?? []).filter((one) => !ads.some((ad) => ad.size === one))) {
    const [width, height] = size.split('x').map(Number)
    const scene = wanted.scene as Scene
    const drawn = { name: `${scene} ${size}.png`, data: await drawPicture(scene, width, height) }
    const { file } = await takeData(deps, actor, advertiserId, drawn)
    await addFile(sequelize, actor, lineId, file.id)
  }
  for (const name of (wanted.made ?? []).filter((one) => !ads.some((ad) => ad.name === one))) {
    const { id } = await MadeCreative.findOne({ where: { advertiserId, name }, rejectOnEmpty: true })
    await addMade(sequelize, actor, lineId, [id])
  }
  if (wanted.tags || wanted.template) await labelLine(sequelize, actor, lineId, { tags: wanted.tags, template: wanted.template })
  const { state, version } = await findLine(lineId)
  if (wanted.liveFrom === null || state !== 'draft') return
  const { reviewer } = deps.reviews
  const was = reviewer.isAtOnce
  if (wanted.isLookedAt) reviewer.isAtOnce = false
  await putLive(deps, actor, lineId, version, `demo-${lineId}-live`)
  if (wanted.isLookedAt) for (const { id } of await AdReview.findAll({ where: { lineId } })) reviewer.takesTime.add(id)
  reviewer.isAtOnce = was
}

/** The draft of a line, with the values of the list that it follows. */
async function followed({ draft, follows }: DemoLine): Promise<LineDraft> {
  if (!follows) return draft
  const { id, kind, contents } = await SavedList.findOne({ where: { name: follows.list }, rejectOnEmpty: true })
  return {
    ...draft,
    targeting: withRestriction(draft.targeting, {
      dimension: LIST_KINDS[kind as ListKind],
      mode: follows.mode,
      values: contents.values,
      list: id
    })
  }
}

async function lineNamed(name: string): Promise<Line> {
  const line = (await Line.findAll()).find((one) => one.draft.name === name)
  if (!line) throw new Error(`The demo has no line called "${name}".`)
  return line
}

/** Done again after a start that was cut off, it changes nothing more. */
export async function doDeed(deps: Deps, deed: Deed): Promise<void> {
  const actor = await actorOf(deed.by)
  if (deed.does === 'slip') {
    if (await Slip.findOne({ where: { name: deed.name } })) return
    const items = await Promise.all(deed.items.map(async ({ line, fields }) => ({ line: (await lineNamed(line)).id, fields: [...fields] })))
    await createSlip(deps, actor, deed.name, items)
    return
  }
  const { id, version, draft, state } = await lineNamed(deed.line)
  if (deed.does === 'end') return state === 'ended' ? undefined : moveLine(deps, actor, id, 'end')
  if (deed.does === 'edit') return saveLine(deps.sequelize, actor, id, version, deed.change(draft))
  const { rows, total } = await resultsOf(deps.sequelize, deps.catalogue, id, null, null)
  const mean = total.brought[0].costMicros
  const dearer = rows.filter(
    ({ brought: [main], leftOut }) => !leftOut && mean !== null && main.costRange !== null && main.costRange.low > mean
  )
  if (dearer.length > 0)
    await changeAtPlacements(
      deps,
      actor,
      id,
      dearer.map(({ placement }) => placement),
      { out: true }
    )
}

async function runTo({ runner }: Deps, hour: number, onHour: (hour: number) => void): Promise<void> {
  runner.on('hour', onHour)
  const { hour: now } = await readMarket()
  if (now > hour)
    throw new Error('This demo was begun by another version. Delete the folder .data/demo: it is made anew at the next start.')
  if (now < hour) await runner.start(hour)
  await runner.idle()
  runner.off('hour', onHour)
  if ((await readMarket()).hour !== hour) throw new Error(`The demo's history stopped: ${runner.status.trouble ?? 'unknown'}`)
}

/** Waits for the tape that ends before an hour. */
async function tapeFor({ tapes, pool }: Deps, hour: number, onShare: (share: number) => void): Promise<void> {
  const ready = new Promise<void>((resolve) => tapes.once('tape', () => resolve()))
  tapes.on('progress', onShare)
  tapes.build(dayOfHour(hour) - 1)
  await ready
  tapes.off('progress', onShare)
  if (!pool.isReady) throw new Error('The tape was built but nobody took it.')
}
