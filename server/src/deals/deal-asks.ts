import { isFilm } from '@tin-harbor/core/taxonomy'
import { Op, type Transaction } from 'sequelize'
import { VIDEO_KINDS, type AskFacts, type DealAsk, type DealDecision, type PlacedAsk, type VideoKind } from '@tin-harbor/core/buying'
import type { DealAskView, DealView, DealsView } from '@tin-harbor/core/contract'
import { placementCode, positionsOf, type Inventory, type Placement } from '@tin-harbor/core/market'
import { conflict, invalidField, unknownObject } from '../http/errors.js'
import { Campaign } from '../campaigns/campaign-model.js'
import { DealRequest, GrantedDeal, isExpired } from './deal-model.js'
import { Line } from '../lines/line-model.js'
import { Organisation } from '../team/user-model.js'
import { maySee, personOf, type Actor } from '../security/sessions.js'
import { audit } from '../team/audit.js'
import { CancelWord } from '../threads/cancel-word.js'
import { formatOf } from '../market/catalogue.js'
import type { Deps } from '../deps.js'
import { readMarket } from '../going-live/publications.js'

type Needs = Pick<Deps, 'sequelize' | 'catalogue' | 'pool' | 'dealOffice' | 'log'>
/** Days that a granted deal stands. */
const DEAL_DAYS = 60

/** A deal as pages show it, with the lines that buy by it. */
export const dealView = (
  { id, name, publisher, kind, priceMicros, placements, volume, leastSpendMicros, untilHour }: GrantedDeal,
  { catalogue: { inventory } }: Pick<Deps, 'catalogue'>,
  hour: number,
  lines: readonly Line[]
): DealView => ({
  id,
  name,
  publisher: inventory.publishers[publisher].name,
  kind,
  priceMicros,
  placements: placements.length,
  format: formatOf(inventory, placements[0]),
  volume,
  leastSpendMicros,
  untilHour,
  isExpired: isExpired({ untilHour }, hour),
  usedBy: lines.filter((line) => line.draft.buys?.deals.includes(id)).map((line) => ({ line: line.id, name: line.draft.name }))
})

const askView = (
  { id, asked, askedHour, state, decision, answeredHour, dealId }: DealRequest,
  { catalogue: { inventory } }: Pick<Deps, 'catalogue'>
): DealAskView => ({
  id,
  publisher: inventory.publishers[asked.publisher].name,
  format: asked.format,
  kind: asked.kind,
  priceMicros: asked.priceMicros,
  volume: asked.volume,
  about: asked.about,
  note: asked.note,
  askedHour,
  state,
  answeredHour,
  dealId,
  rule: decision?.rule ?? null,
  answer: decision?.answer ?? null,
  offered: decision?.state === 'countered' ? { priceMicros: decision.priceMicros, volume: decision.volume } : null
})

/** Placements that a publisher sells under their names. */
const openPlacements = ({ placements, properties }: Inventory, publisher: number) =>
  placements.filter(({ property }) => properties[property].publisher === publisher && !properties[property].anonymous)

/** All deals that were granted, with the lines of what the user sees that buy by them, and everything that was asked for. */
export async function dealsOf(deps: Needs, actor: Actor): Promise<DealsView> {
  const { hour } = await readMarket()
  const campaigns = (await Campaign.findAll({ attributes: ['id', 'advertiserId'] })).filter((campaign) =>
    maySee(actor, campaign.advertiserId)
  )
  const lines = await Line.findAll({ where: { campaignId: campaigns.map((campaign) => campaign.id) }, order: [['id', 'ASC']] })
  const { inventory } = deps.catalogue
  return {
    deals: (await GrantedDeal.findAll({ where: { organisationId: actor.organisationId }, order: [['id', 'ASC']] })).map((deal) =>
      dealView(deal, deps, hour, lines)
    ),
    asks: (await DealRequest.findAll({ where: { organisationId: actor.organisationId }, order: [['id', 'DESC']], limit: 100 })).map((ask) =>
      askView(ask, deps)
    ),
    publishers: inventory.publishers
      .map(({ index, name }) => ({
        name,
        formats: [...new Set(openPlacements(inventory, index).map((placement) => formatOf(inventory, placement.index)))]
      }))
      .filter(({ formats }) => formats.length > 0)
  }
}

/** The kind of video ad that a placement shows. */
const videoKindOf = ({ skippable, rewarded }: Placement): VideoKind => (rewarded ? 'rewarded' : skippable ? 'skippable' : 'not skippable')

/** What an office is told of what is asked: the publisher's own placements of the format, and their traffic on the tape. */
async function factsOf({ catalogue: { inventory }, pool }: Needs, actor: Actor, ask: PlacedAsk, zone: string): Promise<AskFacts> {
  const placements = openPlacements(inventory, ask.publisher).filter(({ index }) => formatOf(inventory, index) === ask.format)
  const videoKinds = VIDEO_KINDS.filter((kind) => placements.some((placement) => videoKindOf(placement) === kind))
  const wanted =
    isFilm(ask.format) && ask.videoKind && videoKinds.includes(ask.videoKind)
      ? placements.filter((placement) => videoKindOf(placement) === ask.videoKind)
      : placements
  const numbers = wanted.map(({ index }) => index)
  if (numbers.length === 0) return { placements: [], opportunitiesADay: 0, halfMicros: 0, videoKinds }
  const { total } = await pool.survey(
    { person: personOf(actor), page: `deal-${actor.id}`, word: new CancelWord() },
    {
      sentence: {
        formats: [ask.format],
        targeting: {
          restrictions: [
            { dimension: 'placement', mode: 'include', values: wanted.map((placement) => placementCode(inventory, placement)) }
          ]
        },
        hours: null
      },
      by: [],
      without: null,
      bidMicros: 0,
      deals: []
    },
    zone
  )
  return { placements: numbers, opportunitiesADay: total.opportunitiesADay, halfMicros: total.halfMicros, videoKinds }
}

export async function askForDeal(deps: Needs, actor: Actor, ask: DealAsk): Promise<DealAskView> {
  const publisher = positionsOf(deps.catalogue.inventory).publisher.get(ask.publisher)
  if (publisher === undefined) throw invalidField('publisher', 'No publisher is called that.')
  const asked: PlacedAsk = { ...ask, publisher }
  const { zone } = await Organisation.findByPk(actor.organisationId, { rejectOnEmpty: true })
  const facts = await factsOf(deps, actor, asked, zone)
  const { hour } = await readMarket()
  const request = await deps.sequelize.transaction(async (transaction) => {
    const made = await DealRequest.create(
      {
        organisationId: actor.organisationId,
        asked,
        facts,
        askedHour: hour,
        state: 'asked',
        decision: null,
        answeredHour: null,
        dealId: null,
        madeBy: actor.id
      },
      { transaction }
    )
    await audit(actor, 'ask', { kind: 'deal', id: made.id, advertiserId: null }, null, ask, transaction)
    return made
  })
  return askView(request, deps)
}

/** Asks the offices for answers that may be due: called as the clock moves. */
export async function collectAnswers(deps: Needs, hour: number): Promise<void> {
  const { publishers } = deps.catalogue.inventory
  for (const ask of await DealRequest.findAll({ where: { state: 'asked', askedHour: { [Op.lt]: hour } } })) {
    const response = await fetch(`${deps.dealOffice.address}/asks`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({
        ask: { ...ask.asked, publisher: publishers[ask.asked.publisher].name },
        facts: ask.facts,
        askedHour: ask.askedHour,
        hour
      }),
      signal: AbortSignal.timeout(4000)
    })
    if (response.status !== 200) continue
    const { from, ...decision } = (await response.json()) as DealDecision & { from: number }
    await deps.sequelize.transaction(async (transaction) => {
      const open = await DealRequest.findByPk(ask.id, { transaction, lock: transaction.LOCK.UPDATE })
      if (open?.state !== 'asked') return
      const dealId = decision.state === 'granted' ? await grant(deps, open, decision, from, transaction) : null
      await open.update({ state: decision.state, decision, answeredHour: from, dealId }, { transaction })
    })
  }
}

async function grant(
  { catalogue: { inventory } }: Needs,
  { organisationId, asked, facts }: DealRequest,
  terms: { priceMicros: number; volume: number },
  hour: number,
  transaction: Transaction
): Promise<number> {
  const deal = await GrantedDeal.create(
    {
      organisationId,
      name: `${inventory.publishers[asked.publisher].name}, ${asked.format}, ${asked.kind === 'fixed' ? 'fixed price' : 'floor price'}`,
      publisher: asked.publisher,
      kind: asked.kind,
      priceMicros: terms.priceMicros,
      placements: facts.placements,
      volume: terms.volume,
      leastSpendMicros: null,
      untilHour: hour + DEAL_DAYS * 24
    },
    { transaction }
  )
  return deal.id
}

/** Who asked. */
export async function organisationOfAsk(id: number): Promise<number> {
  const ask = await DealRequest.findByPk(id)
  if (!ask) throw unknownObject('deal request')
  return ask.organisationId
}

/** Takes what an office offered instead. */
export async function takeCounter(deps: Needs, actor: Actor, id: number): Promise<DealAskView> {
  const { hour } = await readMarket()
  const taken = await deps.sequelize.transaction(async (transaction) => {
    const ask = await DealRequest.findByPk(id, { transaction, lock: transaction.LOCK.UPDATE })
    if (!ask || ask.organisationId !== actor.organisationId) throw unknownObject('deal request')
    if (ask.state !== 'countered' || ask.decision?.state !== 'countered') throw conflict('There is no offer to take.')
    const dealId = await grant(deps, ask, ask.decision, hour, transaction)
    await ask.update({ state: 'granted', dealId }, { transaction })
    await audit(actor, 'take', { kind: 'deal', id, advertiserId: null }, null, { dealId }, transaction)
    return ask
  })
  return askView(taken, deps)
}
