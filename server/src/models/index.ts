import {
  DataTypes,
  Model,
  type ModelStatic,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize
} from 'sequelize'
import type {
  AskFacts,
  Budget,
  CampaignTarget,
  DealAsk,
  DealDecision,
  Goal,
  LineDraft,
  LineState,
  Offer as OfferDraft,
  ReviewState,
  Role,
  SavedList as ListDraft,
  SlipItem
} from '@tin-harbor/core/buying'
import type { EventKind } from '@tin-harbor/core/taxonomy'
import type { CreativeKind } from '@tin-harbor/core/creative'
import type { CampaignRules, Cap, LineRules } from '@tin-harbor/core/exchange'
import type { MainFigures } from '@tin-harbor/core/forecast'
import { documentColumn, moneyColumn } from '../database/connection.js'

type Row<M extends Model> = InferAttributes<M>
type New<M extends Model> = InferCreationAttributes<M>

export class Organisation extends Model<Row<Organisation>, New<Organisation>> {
  declare id: CreationOptional<number>
  declare name: string
  declare currency: string
  declare zone: string
}

export class User extends Model<Row<User>, New<User>> {
  declare id: CreationOptional<number>
  declare organisationId: number
  declare name: string
  declare email: string
  declare role: Role
  declare passwordHash: string
  declare allAdvertisers: boolean
}

export class UserAdvertiser extends Model<Row<UserAdvertiser>, New<UserAdvertiser>> {
  declare userId: number
  declare advertiserId: number
}

export class Session extends Model<Row<Session>, New<Session>> {
  declare tokenHash: string
  declare userId: number
  /** Seconds since 1970. */
  declare expiresAt: number
  /** Of the password that it was opened with: another password ends it. */
  declare passwordMark: string
}

export class Advertiser extends Model<Row<Advertiser>, New<Advertiser>> {
  declare id: CreationOptional<number>
  declare organisationId: number
  declare name: string
  declare domain: string
  declare zone: string
  declare version: CreationOptional<number>
}

export class Campaign extends Model<Row<Campaign>, New<Campaign>> {
  declare id: CreationOptional<number>
  declare advertiserId: number
  declare name: string
  declare goal: Goal
  declare startDate: string
  declare endDate: string | null
  declare totalMicros: number | null
  declare dailyMicros: number | null
  declare longerLimits: CreationOptional<Omit<Budget, 'dailyMicros' | 'totalMicros'> | null>
  declare caps: CreationOptional<Cap[] | null>
  declare target: CreationOptional<CampaignTarget | null>
  declare linkTail: CreationOptional<string>
  declare note: CreationOptional<string>
  declare version: CreationOptional<number>
}

export class Line extends Model<Row<Line>, New<Line>> {
  declare id: CreationOptional<number>
  declare campaignId: number
  declare draft: LineDraft
  declare state: LineState
  declare stateBeforeEnd: CreationOptional<LineState | null>
  /** Whether a cleared line may start; false while it waits for release. */
  declare released: CreationOptional<boolean>
  declare revisionId: CreationOptional<number | null>
  /** Flight of the revision in force, market hours. */
  declare startHour: CreationOptional<number | null>
  declare endHour: CreationOptional<number | null>
  declare liveFromHour: CreationOptional<number | null>
  /** The line that it was copied from. */
  declare copiedFrom: CreationOptional<number | null>
  declare tags: CreationOptional<string[] | null>
  /** A draft that others start from: it never goes live itself. */
  declare template: CreationOptional<boolean>
  declare version: CreationOptional<number>
}

export class LineRevision extends Model<Row<LineRevision>, New<LineRevision>> {
  declare id: CreationOptional<number>
  declare lineId: number
  declare draft: LineDraft
  declare rules: LineRules
  declare forecast: MainFigures
  declare madeBy: number | null
  declare madeAt: number
  declare marketHour: number
}

export class Publication extends Model<Row<Publication>, New<Publication>> {
  declare id: CreationOptional<number>
  declare fromHour: number
  declare campaigns: CampaignRules[]
  declare madeBy: number | null
  declare madeAt: number
}

export class PublicationLine extends Model<Row<PublicationLine>, New<PublicationLine>> {
  declare publicationId: number
  declare lineRevisionId: number
  declare liveFromHour: number
}

export class Creative extends Model<Row<Creative>, New<Creative>> {
  declare id: CreationOptional<number>
  declare advertiserId: number
  declare name: string
  declare type: string
  declare width: number
  declare height: number
  declare bytes: number
  declare slotSize: string
  declare sha256: string
  declare data: Buffer
}

export class Ad extends Model<Row<Ad>, New<Ad>> {
  declare id: CreationOptional<number>
  declare lineId: number
  /** One of the two: a picture, or an ad made of parts. */
  declare creativeId: CreationOptional<number | null>
  declare madeCreativeId: CreationOptional<number | null>
  declare weight: CreationOptional<number>
  declare review: ReviewState
  declare removed: CreationOptional<boolean>
}

export class MarketState extends Model<Row<MarketState>, New<MarketState>> {
  declare id: number
  /** The market clock: hours since 2026-01-01T00:00Z. */
  declare hour: number
  declare publicationId: number
  /** Hour that a run is under way to; null when the market stands. */
  declare targetHour: number | null
  /** Whom the market buys for; null before anybody went live. */
  declare organisationId: CreationOptional<number | null>
  /** Milliseconds that each hour of the run takes at least. */
  declare pauseMs: CreationOptional<number>
  declare seed: number
  declare people: number
  declare sample: number
}

export class LedgerEntry extends Model<Row<LedgerEntry>, New<LedgerEntry>> {
  declare id: CreationOptional<number>
  declare organisationId: number
  declare kind: 'top-up' | 'spend'
  declare hour: number
  declare advertiserId: number | null
  /** Positive is money in. */
  declare amountMicros: number
  declare note: CreationOptional<string>
  declare madeBy: number | null
}

export class AuditEntry extends Model<Row<AuditEntry>, New<AuditEntry>> {
  declare id: CreationOptional<number>
  declare userId: number | null
  declare at: number
  declare action: string
  declare object: string
  declare objectId: number
  declare advertiserId: number | null
  declare was: unknown
  declare became: unknown
}

/** Steps of the demo's set-up that are done, so that a start that was cut off goes on where it was. */
export class SetupStep extends Model<Row<SetupStep>, New<SetupStep>> {
  declare name: string
}

export class IdempotentAnswer extends Model<Row<IdempotentAnswer>, New<IdempotentAnswer>> {
  declare userId: number
  declare token: string
  declare route: string
  declare answer: unknown
  declare at: number
}

// Sequelize writes into the definitions it is given, so each column gets one of its own.
const id = () => ({ type: DataTypes.INTEGER, primaryKey: true, autoIncrement: true })
const key = () => ({ type: DataTypes.INTEGER, primaryKey: true })
/** What is sold, in the terms of `offerSchema`. */
export class Offer extends Model<Row<Offer>, New<Offer>> {
  declare id: CreationOptional<number>
  declare advertiserId: number
  declare name: string
  declare terms: Omit<OfferDraft, 'name'>
  declare version: CreationOptional<number>
}

export class Shop extends Model<Row<Shop>, New<Shop>> {
  declare id: CreationOptional<number>
  declare advertiserId: number
  declare name: string
  declare place: string
}

export class Tracker extends Model<Row<Tracker>, New<Tracker>> {
  declare id: CreationOptional<number>
  declare advertiserId: number
  declare name: string
  declare kind: EventKind
  /** Name of a branch of subjects. */
  declare subject: string | null
  declare reports: string
  declare clickHours: number
  declare viewHours: number | null
  declare valueMicros: number | null
  declare version: CreationOptional<number>
}

export class GrantedDeal extends Model<Row<GrantedDeal>, New<GrantedDeal>> {
  declare id: CreationOptional<number>
  declare organisationId: number
  declare name: string
  declare publisher: number
  declare kind: 'fixed' | 'floor'
  declare priceMicros: number
  declare placements: number[]
  declare volume: number | null
  declare leastSpendMicros: number | null
  /** Market hour at which it ends; null for one that stands. */
  declare untilHour: CreationOptional<number | null>
  declare version: CreationOptional<number>
}

/** A deal that was asked for, and what became of it. */
export class DealRequest extends Model<Row<DealRequest>, New<DealRequest>> {
  declare id: CreationOptional<number>
  declare organisationId: number
  declare asked: DealAsk
  declare facts: AskFacts
  declare askedHour: number
  declare state: 'asked' | 'granted' | 'countered' | 'refused'
  declare decision: DealDecision | null
  declare answeredHour: number | null
  declare dealId: number | null
  declare madeBy: number | null
}

export class SavedList extends Model<Row<SavedList>, New<SavedList>> {
  declare id: CreationOptional<number>
  declare organisationId: number
  /** Null for a list of the whole organisation. */
  declare advertiserId: number | null
  declare name: string
  declare kind: string
  declare contents: Pick<ListDraft, 'values' | 'group'>
  declare version: CreationOptional<number>
}

/** A creative of any kind, made of parts; pictures that were uploaded are `Creative`. */
export class MadeCreative extends Model<Row<MadeCreative>, New<MadeCreative>> {
  declare id: CreationOptional<number>
  declare advertiserId: number
  declare name: string
  declare kind: CreativeKind
  declare parts: object
  declare version: CreationOptional<number>
}

/** Edits of lines that go live together, and can be taken back together. */
export class Slip extends Model<Row<Slip>, New<Slip>> {
  declare id: CreationOptional<number>
  declare name: string
  declare items: SlipItem[]
  declare state: 'open' | 'live' | 'taken back'
  declare revisions: CreationOptional<{ line: number; before: number; after: number }[] | null>
  declare liveHour: CreationOptional<number | null>
  declare madeBy: number | null
  declare madeAt: number
}

const int = () => ({ type: DataTypes.INTEGER, allowNull: false })
const maybe = () => ({ type: DataTypes.INTEGER, allowNull: true })
const text = () => ({ type: DataTypes.STRING, allowNull: false })
const maybeText = () => ({ type: DataTypes.STRING, allowNull: true })
const flag = (defaultValue: boolean) => ({ type: DataTypes.BOOLEAN, allowNull: false, defaultValue })
const version = () => ({ ...int(), defaultValue: 1 })

/** What the exchange has read must stay as it was read. */
function keepAsMade(model: ModelStatic<Model>): void {
  const refuse = () => {
    throw new Error(`A ${model.name} is never changed; make a new one.`)
  }
  model.addHook('beforeUpdate', refuse)
  model.addHook('beforeBulkUpdate', refuse)
  model.addHook('beforeDestroy', refuse)
  model.addHook('beforeBulkDestroy', refuse)
}

/** Ties the models to a connection. */
export function defineModels(sequelize: Sequelize): void {
  const inTable = (tableName: string) => ({ sequelize, tableName })
  Organisation.init({ id: id(), name: text(), currency: text(), zone: text() }, inTable('organisation'))
  User.init(
    { id: id(), organisationId: int(), name: text(), email: text(), role: text(), passwordHash: text(), allAdvertisers: flag(false) },
    inTable('user')
  )
  UserAdvertiser.init({ userId: key(), advertiserId: key() }, inTable('user_advertiser'))
  Session.init(
    { tokenHash: { ...text(), primaryKey: true }, userId: int(), expiresAt: int(), passwordMark: { ...text(), defaultValue: '' } },
    inTable('session')
  )
  Advertiser.init(
    { id: id(), organisationId: int(), name: text(), domain: text(), zone: text(), version: version() },
    inTable('advertiser')
  )
  Campaign.init(
    {
      id: id(),
      advertiserId: int(),
      name: text(),
      goal: text(),
      startDate: text(),
      endDate: maybeText(),
      totalMicros: moneyColumn('totalMicros', true),
      dailyMicros: moneyColumn('dailyMicros', true),
      longerLimits: documentColumn('longerLimits', true),
      caps: documentColumn('caps', true),
      target: documentColumn('target', true),
      linkTail: { ...text(), defaultValue: '' },
      note: { ...text(), defaultValue: '' },
      version: version()
    },
    inTable('campaign')
  )
  Line.init(
    {
      id: id(),
      campaignId: int(),
      draft: documentColumn('draft'),
      state: text(),
      stateBeforeEnd: maybeText(),
      released: flag(false),
      revisionId: maybe(),
      startHour: maybe(),
      endHour: maybe(),
      liveFromHour: maybe(),
      copiedFrom: maybe(),
      tags: documentColumn('tags', true),
      template: flag(false),
      version: version()
    },
    inTable('line')
  )
  LineRevision.init(
    {
      id: id(),
      lineId: int(),
      draft: documentColumn('draft'),
      rules: documentColumn('rules'),
      forecast: documentColumn('forecast'),
      madeBy: maybe(),
      madeAt: int(),
      marketHour: int()
    },
    inTable('line_revision')
  )
  Publication.init(
    { id: id(), fromHour: int(), campaigns: documentColumn('campaigns'), madeBy: maybe(), madeAt: int() },
    inTable('publication')
  )
  PublicationLine.init({ publicationId: key(), lineRevisionId: key(), liveFromHour: int() }, inTable('publication_line'))
  Creative.init(
    {
      id: id(),
      advertiserId: int(),
      name: text(),
      type: text(),
      width: int(),
      height: int(),
      bytes: int(),
      slotSize: text(),
      sha256: text(),
      data: { type: DataTypes.BLOB('medium'), allowNull: false }
    },
    inTable('creative')
  )
  Ad.init(
    {
      id: id(),
      lineId: int(),
      creativeId: maybe(),
      madeCreativeId: maybe(),
      weight: { ...int(), defaultValue: 1 },
      review: text(),
      removed: flag(false)
    },
    inTable('ad')
  )
  MarketState.init(
    {
      id: key(),
      organisationId: maybe(),
      hour: int(),
      publicationId: int(),
      targetHour: maybe(),
      pauseMs: { ...int(), defaultValue: 0 },
      seed: int(),
      people: int(),
      sample: int()
    },
    inTable('market_state')
  )
  LedgerEntry.init(
    {
      id: id(),
      organisationId: int(),
      kind: text(),
      hour: int(),
      advertiserId: maybe(),
      amountMicros: moneyColumn('amountMicros', false),
      note: { ...text(), defaultValue: '' },
      madeBy: maybe()
    },
    inTable('ledger_entry')
  )
  AuditEntry.init(
    {
      id: id(),
      userId: maybe(),
      at: int(),
      action: text(),
      object: text(),
      objectId: int(),
      advertiserId: maybe(),
      was: documentColumn('was', true),
      became: documentColumn('became', true)
    },
    inTable('audit_entry')
  )
  Offer.init({ id: id(), advertiserId: int(), name: text(), terms: documentColumn('terms'), version: version() }, inTable('offer'))
  DealRequest.init(
    {
      id: id(),
      organisationId: int(),
      asked: documentColumn('asked'),
      facts: documentColumn('facts'),
      askedHour: int(),
      state: text(),
      decision: documentColumn('decision', true),
      answeredHour: maybe(),
      dealId: maybe(),
      madeBy: maybe()
    },
    inTable('deal_request')
  )
  Shop.init({ id: id(), advertiserId: int(), name: text(), place: text() }, inTable('shop'))
  Tracker.init(
    {
      id: id(),
      advertiserId: int(),
      name: text(),
      kind: text(),
      subject: maybeText(),
      reports: text(),
      clickHours: int(),
      viewHours: maybe(),
      valueMicros: moneyColumn('valueMicros', true),
      version: version()
    },
    inTable('tracker')
  )
  GrantedDeal.init(
    {
      id: id(),
      organisationId: int(),
      name: text(),
      publisher: int(),
      kind: text(),
      priceMicros: moneyColumn('priceMicros', false),
      placements: documentColumn('placements'),
      volume: moneyColumn('volume', true),
      leastSpendMicros: moneyColumn('leastSpendMicros', true),
      untilHour: maybe(),
      version: version()
    },
    inTable('granted_deal')
  )
  SavedList.init(
    {
      id: id(),
      organisationId: int(),
      advertiserId: maybe(),
      name: text(),
      kind: text(),
      contents: documentColumn('contents'),
      version: version()
    },
    inTable('saved_list')
  )
  MadeCreative.init(
    { id: id(), advertiserId: int(), name: text(), kind: text(), parts: documentColumn('parts'), version: version() },
    inTable('made_creative')
  )
  Slip.init(
    {
      id: id(),
      name: text(),
      items: documentColumn('items'),
      state: text(),
      revisions: documentColumn('revisions', true),
      liveHour: maybe(),
      madeBy: maybe(),
      madeAt: int()
    },
    inTable('slip')
  )
  keepAsMade(LineRevision)
  keepAsMade(Publication)
  SetupStep.init({ name: { ...text(), primaryKey: true } }, inTable('setup_step'))
  IdempotentAnswer.init(
    { userId: key(), token: { ...text(), primaryKey: true }, route: text(), answer: documentColumn('answer'), at: int() },
    inTable('idempotent_answer')
  )
}
