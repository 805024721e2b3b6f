import type { Sequelize } from 'sequelize'
import type { Logger } from 'pino'
import type { ForecastPool } from './forecasts/forecast-pool.js'
import type { MarketRunner } from './exchange/market-runner.js'
import type { ContentStore } from './files/content-store.js'
import type { FeedDesk } from './feeds/feed-desk.js'
import type { HitDesk } from './hits/hit-desk.js'
import type { PostOffice } from './mail/post-office.js'
import type { PaymentDesk } from './money/payment-desk.js'
import type { Reviewer } from './standins/reviewer.js'
import type { FitDesk } from './files/fit-desk.js'
import type { Uploads } from './files/uploads.js'
import type { Sandbox } from './sandbox/sandbox.js'
import type { RecordsDesk } from './results/records-desk.js'
import type { TapeBuilder } from './tape/tape-builder.js'
import type { Threads } from './threads/threads.js'
import type { DatabaseWatch } from './database/watch.js'
import type { DealOffice } from './standins/deal-office.js'
import type { StandInSites } from './standins/sites.js'
import type { SellersWeb } from './standins/web-of-sellers.js'
import type { Configuration } from './configuration.js'
import type { Catalogue } from './market/catalogue.js'
import type { EventHub } from './http/events.js'
import type { TapeExposures } from './forecasts/exposures.js'

/** Something that can be brought up to what is in force. */
export interface Current {
  current(): Promise<void>
}

/** What each line in force gets of the best that its money could buy: of the last tape, until that is known of the next. */
export interface PossibleShares extends Current {
  /** Share from 0 to 1; null where nothing can be said yet. */
  of(line: number): number | null
  /** When they were last known anew, milliseconds since 1970; 0 before they were. */
  readonly since: number
}

/** Who asks the reviewer for what is due. */
export interface Reviews {
  reviewer: Reviewer
  /** Whether it could not be asked the last time. */
  readonly isAway: boolean
  /** Settles when it is known what was answered by now. */
  ask(): Promise<void>
}

/** What services and routes are given. */
export interface Deps {
  configuration: Configuration
  sequelize: Sequelize
  log: Logger
  /** All threads, for counting. */
  threads: Threads
  pool: ForecastPool
  runner: MarketRunner
  tapes: TapeBuilder
  catalogue: Catalogue
  events: EventHub
  exposures: TapeExposures
  /** What the lines in force take of the tape. */
  liveLines: Current
  /** What they get of what their money could buy. */
  possible: PossibleShares
  records: RecordsDesk
  /** Contents of files, by their hashes. */
  store: ContentStore
  uploads: Uploads
  fits: FitDesk
  /** Sites of the demo's advertisers. */
  sites: StandInSites
  /** Who asks the reviewer. */
  reviews: Reviews
  /** Who sends letters. */
  mail: PostOffice
  /** Who moves money by the payment service. */
  payments: PaymentDesk
  /** Where players tell what they did. */
  hits: HitDesk
  /** Where product feeds are read. */
  feeds: FeedDesk
  /** Where what others made is seen as it runs. */
  sandbox: Sandbox
  /** Whether the database answers. */
  watch: DatabaseWatch
  /** Sites of publishers and sources. */
  sellersWeb: SellersWeb
  /** Publishers' deal offices. */
  dealOffice: DealOffice
}
