import { campaignSchema, type CampaignDraft } from '../buying/campaign.js'
import type { yup } from '../input/index.js'
import { LINE_STATES } from '../buying/states.js'
import { GOAL_MEASURES } from '../forecast/index.js'
import { FORMATS } from '../taxonomy/index.js'
import { flag, formOf, list, maybe, number, oneOf, shape, text, type TypeOf } from './shapes.js'

export const campaignView = shape({
  ...formOf(campaignSchema).fields,
  id: number(),
  code: text(),
  advertiserId: number(),
  version: number()
}) as unknown as yup.Schema<CampaignDraft & { id: number; code: string; advertiserId: number; version: number }>
export type CampaignView = TypeOf<typeof campaignView>

export const advertiserView = shape({
  id: number(),
  name: text(),
  domain: text(),
  zone: text(),
  /** Parameters that are added to every link of its campaigns. */
  linkTail: text(),
  version: number()
})
export type AdvertiserView = TypeOf<typeof advertiserView>

/** A strip of the manifest: a line with what it has spent and should have by now. */
export const manifestLine = shape({
  id: number(),
  code: text(),
  campaignId: number(),
  name: text(),
  format: oneOf(FORMATS),
  state: oneOf(LINE_STATES),
  waits: flag(),
  tags: list(text()),
  template: flag(),
  /** Whether it has edits that are not in force. */
  staged: flag(),
  startDate: text(),
  endDate: maybe(text()),
  spentMicros: number(),
  /** Whole plan of the flight, and its part due by the clock; null without a budget of its own or its campaign's. */
  plannedMicros: maybe(number()),
  dueMicros: maybe(number()),
  /** What it gets of the best that its money could buy, 0 to 1, as it is in force; null where that is not known. */
  possible: maybe(number())
})
export type ManifestLine = TypeOf<typeof manifestLine>

/** Everything that the manifest shows to a user. */
export const manifestView = shape({
  advertisers: list(advertiserView),
  campaigns: list(campaignView),
  lines: list(manifestLine),
  /** When it was last known anew what lines get of the possible, milliseconds since 1970; 0 where it is not known yet. */
  possibleSince: number()
})
export type ManifestView = TypeOf<typeof manifestView>

/** Spend against plan, by day of the advertiser's calendar. */
export const pace = shape({
  days: list(shape({ date: text(), spendMicros: number(), plannedMicros: maybe(number()), wins: number(), clicks: number() })),
  spentMicros: number(),
  dueMicros: maybe(number()),
  plannedMicros: maybe(number()),
  /** The day before in which the clock stands is whole; the last one is not. */
  words: text()
})
export type Pace = TypeOf<typeof pace>

/** A campaign's lines beside each other: what shares of its money buy each, and whom they share. */
export const companyView = shape({
  /** A day of the campaign's money. */
  totalMicros: number(),
  /** Lines of the campaign with a bid; those with most money are looked at. */
  among: number(),
  measure: oneOf(GOAL_MEASURES),
  overlaps: list(shape({ first: number(), second: number(), opportunitiesADay: number(), people: number() })),
  lines: list(
    shape({
      line: number(),
      version: number(),
      name: text(),
      /** Its own daily budget; null without one. */
      ownMicros: maybe(number()),
      /** In the goal's measure, with its budget as it is, and as advised. */
      buysNow: number(),
      advisedMicros: number(),
      buysAdvised: number(),
      points: list(shape({ dailyMicros: number(), spendMicros: number(), wins: number(), value: number() }))
    })
  )
})
export type CompanyView = TypeOf<typeof companyView>
