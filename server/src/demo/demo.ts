import type { Transaction } from 'sequelize'
import { dayOfHour } from '@tin-harbor/core/time'
import { withNamedLock } from '../database/named-lock.js'
import { Advertiser } from '../advertisers/advertiser-model.js'
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
import { addPicture } from '../creatives/creatives.js'
import type { Deps } from '../deps.js'
import { adsOf, createLine, findLine } from '../lines/lines.js'
import { putLive } from '../going-live/putting-live.js'
import { readMarket } from '../going-live/publications.js'
import type { StartProgress } from '../start-progress.js'
import { makeMarketObjects } from './market-objects.js'
import { drawPicture } from './pictures.js'
import { ADVERTISERS, DEMO_HOUR, DEMO_PASSWORD, DRAFT_CAMPAIGN, HISTORY_FROM, LIVE_CAMPAIGN, MONEY_IN, USERS } from './scenario.js'

/**
 * Sets up the demo by doing what a team would do: sign people up, pay money in, make a campaign, put it live and run the
 * market for two weeks. Steps that are done are kept, so that a start that was cut off goes on.
 */
export async function setUpDemo(deps: Deps, progress: StartProgress): Promise<void> {
  // Two servers that start at once on one database take turns; the second finds all steps done.
  await withNamedLock(deps.configuration.databaseUrl, 'tin_harbor_demo', 600, () => takeSteps(deps, progress))
}

async function takeSteps(deps: Deps, progress: StartProgress): Promise<void> {
  const done = new Set((await SetupStep.findAll()).map((step) => step.name))
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
  await whole('account', (transaction) => makeAccount(deps, passwordHash, transaction))
  await whole('market objects', async (transaction) => {
    const { id } = await Organisation.findOne({ order: [['id', 'ASC']], rejectOnEmpty: true, transaction })
    await makeMarketObjects(deps.catalogue, id, transaction)
  })
  await resumed('live campaign', async () => {
    await tapeFor(deps, HISTORY_FROM, (share) => progress('tape', share))
    await makeCampaign(deps, LIVE_CAMPAIGN, true)
  })
  await resumed('history', () => runHistory(deps, progress))
  await resumed('draft campaign', () => makeCampaign(deps, DRAFT_CAMPAIGN, false))
}

async function makeAccount({ configuration }: Deps, passwordHash: string, transaction: Transaction): Promise<void> {
  // One that an earlier version left without its note.
  if (await Organisation.findOne({ transaction })) return
  const organisation = await Organisation.create({ name: 'Wharfside', currency: 'EUR', zone: 'Europe/Lisbon' }, { transaction })
  const numbers = new Map<string, number>()
  for (const advertiser of ADVERTISERS) {
    numbers.set(advertiser.name, (await Advertiser.create({ ...advertiser, organisationId: organisation.id }, { transaction })).id)
  }
  for (const { name, email, role, sees } of USERS) {
    const user = await User.create(
      { name, email, role, passwordHash, organisationId: organisation.id, allAdvertisers: sees === 'all' },
      { transaction }
    )
    for (const advertiser of sees === 'all' ? [] : sees) {
      await UserAdvertiser.create({ userId: user.id, advertiserId: numbers.get(advertiser) as number }, { transaction })
    }
  }
  const publication = await Publication.create({ fromHour: HISTORY_FROM, campaigns: [], madeBy: null, madeAt: now() }, { transaction })
  const { seed, people, sample } = configuration.world
  await MarketState.create(
    { id: 1, organisationId: organisation.id, hour: HISTORY_FROM, publicationId: publication.id, targetHour: null, seed, people, sample },
    { transaction }
  )
  await LedgerEntry.create(
    {
      organisationId: organisation.id,
      kind: 'top-up',
      hour: HISTORY_FROM,
      advertiserId: null,
      amountMicros: MONEY_IN,
      note: 'Bank transfer',
      madeBy: null
    },
    { transaction }
  )
}

/** The user in whose name the demo is made. */
async function demoActor(): Promise<Actor> {
  const { id, name, email, role, organisationId } = await User.findOne({ where: { role: 'admin' }, rejectOnEmpty: true })
  const advertisers = (await Advertiser.findAll({ attributes: ['id'], where: { organisationId } })).map((advertiser) => advertiser.id)
  return { id, name, email, role, organisationId, advertisers }
}

async function makeCampaign(deps: Deps, { advertiser, draft, lines }: typeof LIVE_CAMPAIGN, live: boolean): Promise<void> {
  const actor = await demoActor()
  const { id } = await Advertiser.findOne({ where: { name: advertiser }, rejectOnEmpty: true })
  const existing = await Campaign.findOne({ where: { advertiserId: id, name: draft.name } })
  const campaignId = existing?.id ?? (await createCampaign(deps.sequelize, actor, id, draft)).id
  const made = await Line.findAll({ where: { campaignId } })
  for (const line of lines) {
    const lineId =
      made.find((other) => other.draft.name === line.draft.name)?.id ??
      (await createLine(deps.sequelize, actor, await findCampaign(campaignId), line.draft))
    const sizes = (await adsOf(lineId)).map((ad) => ad.size)
    for (const size of line.sizes.filter((size) => !sizes.includes(size))) {
      const [width, height] = size.split('x').map(Number)
      await addPicture(deps.sequelize, actor, lineId, `${line.scene} ${size}.png`, await drawPicture(line.scene, width, height))
    }
    const { state, version } = await findLine(lineId)
    if (live && state === 'draft') await putLive(deps, actor, lineId, version, `demo-${lineId}-live`)
  }
}

async function runHistory({ runner }: Deps, progress: StartProgress): Promise<void> {
  const onHour = (hour: number) => progress('history', (hour - HISTORY_FROM) / (DEMO_HOUR - HISTORY_FROM))
  runner.on('hour', onHour)
  if ((await readMarket()).hour < DEMO_HOUR) await runner.start(DEMO_HOUR)
  await runner.idle()
  runner.off('hour', onHour)
  if ((await readMarket()).hour !== DEMO_HOUR) throw new Error(`The demo's history stopped: ${runner.status.trouble ?? 'unknown'}`)
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
