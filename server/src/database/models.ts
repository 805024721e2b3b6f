import type { Sequelize } from 'sequelize'
import { defineAdvertisers } from '../advertisers/advertiser-model.js'
import { defineOffers } from '../advertisers/offer-model.js'
import { defineShops } from '../advertisers/shop-model.js'
import { defineTrackers } from '../advertisers/tracker-model.js'
import { defineCampaigns } from '../campaigns/campaign-model.js'
import { defineCreatives } from '../creatives/creative-model.js'
import { defineMadeCreatives } from '../creatives/made-creative-model.js'
import { defineSetupSteps } from './setup-step-model.js'
import { defineFiles } from '../files/file-model.js'
import { defineDeals } from '../deals/deal-model.js'
import { defineMarket } from '../exchange/market-model.js'
import { definePublications } from '../going-live/publication-model.js'
import { defineAnswers } from '../http/answer-model.js'
import { defineLines } from '../lines/line-model.js'
import { defineLists } from '../lists/list-model.js'
import { defineReviews } from '../review/review-model.js'
import { defineHits } from '../hits/hit-model.js'
import { defineToldConversions } from '../hits/told-conversion-model.js'
import { definePlates } from '../plates/plate-model.js'
import { defineFeeds } from '../feeds/feed-model.js'
import { defineMixes } from '../mixer/mix-model.js'
import { definePreviewLinks } from '../previews/link-model.js'
import { defineLedger } from '../money/ledger-model.js'
import { definePayments } from '../money/payment-model.js'
import { defineSlips } from '../slips/slip-model.js'
import { defineAudit } from '../team/audit-model.js'
import { defineTeam } from '../team/team-models.js'
import { defineUsers } from '../team/user-model.js'

/** Models of every room. */
const ALL = [
  defineAdvertisers,
  defineOffers,
  defineShops,
  defineTrackers,
  defineCampaigns,
  defineCreatives,
  defineMadeCreatives,
  defineSetupSteps,
  defineDeals,
  defineFiles,
  defineMarket,
  definePublications,
  defineAnswers,
  defineLines,
  defineLists,
  defineMixes,
  defineFeeds,
  definePlates,
  defineHits,
  defineReviews,
  defineToldConversions,
  definePreviewLinks,
  defineLedger,
  definePayments,
  defineSlips,
  defineAudit,
  defineTeam,
  defineUsers
]

/** Ties all models to a connection. */
export function defineModels(sequelize: Sequelize): void {
  for (const define of ALL) define(sequelize)
}
