import type { Sequelize } from 'sequelize'
import type { InputMigrations } from 'umzug'
import * as m0001 from './0001-account.js'
import * as m0002 from './0002-buying.js'
import * as m0003 from './0003-market.js'
import * as m0004 from './0004-market-objects.js'
import * as m0005 from './0005-delivery.js'
import * as m0006 from './0006-campaign-limits.js'
import * as m0007 from './0007-deal-facts.js'
import * as m0008 from './0008-slips.js'
import * as m0009 from './0009-campaign-words.js'
import * as m0010 from './0010-campaign-target.js'
import * as m0011 from './0011-organisations.js'
import * as m0012 from './0012-event-kinds.js'
import * as m0013 from './0013-shared-days.js'
import * as m0014 from './0014-new-people.js'
import * as m0015 from './0015-known-names.js'
import * as m0016 from './0016-offers-and-hours.js'
import * as m0017 from './0017-files.js'
import * as m0018 from './0018-ads-of-parts.js'
import * as m0019 from './0019-ads-of-a-line.js'
import * as m0020 from './0020-mixes.js'
import * as m0021 from './0021-preview-links.js'
import * as m0022 from './0022-feeds.js'
import * as m0023 from './0023-plates.js'
import * as m0024 from './0024-macros.js'
import * as m0025 from './0025-hits.js'
import * as m0026 from './0026-feeds-settled.js'
import * as m0027 from './0027-trackers.js'
import * as m0028 from './0028-reviews.js'
import * as m0029 from './0029-money.js'
import * as m0030 from './0030-team.js'

interface Step {
  name: string
  statements?: readonly string[]
  /** What SQL cannot say. */
  run?: (sequelize: Sequelize) => Promise<void>
}

/** Statements check state themselves (IF NOT EXISTS), since DDL commits by itself and may be run again. */
export const migrations: InputMigrations<Sequelize> = (
  [
    m0001,
    m0002,
    m0003,
    m0004,
    m0005,
    m0006,
    m0007,
    m0008,
    m0009,
    m0010,
    m0011,
    m0012,
    m0013,
    m0014,
    m0015,
    m0016,
    m0017,
    m0018,
    m0019,
    m0020,
    m0021,
    m0022,
    m0023,
    m0024,
    m0025,
    m0026,
    m0027,
    m0028,
    m0029,
    m0030
  ] as Step[]
).map(({ name, statements = [], run }) => ({
  name,
  up: async ({ context }: { context: Sequelize }) => {
    for (const sql of statements) await context.query(sql)
    await run?.(context)
  }
}))
