import type { Sequelize } from 'sequelize'
import type { TrackerReports } from '@tin-harbor/core/buying'
import type { HitIds, HitSubject } from './ids.js'
import type { Impressions } from './impressions.js'

/** What is needed to tell what something that was told is of. */
export interface Taking {
  sequelize: Sequelize
  ids: HitIds
  impressions: Impressions
}

/** Something that was told of an impression or a preview, as the journal has it. */
export interface ToldHit {
  subject: HitSubject
  event: string
  /** Seconds since 1970. */
  toldAt: number
}

/** A conversion that was told, as the journal has it. */
export interface ToldConversion {
  /** Of the telling: read from the journal twice it is kept once. */
  told: string
  tracker: number
  how: TrackerReports
  /** As it was told; empty where nothing was. */
  click: string
  transaction: string
  /** Micros; null where no value was told. */
  valueMicros: number | null
  page: string
  toldAt: number
  /** What was found wrong as it came: kept, and not counted. */
  refused: { outcome: 'forged' | 'currency' | 'old' | 'page'; says: string } | null
}

/** All that is told, in the order in which it came. */
export type Told = ToldHit | ToldConversion
export const isConversion = (one: Told): one is ToldConversion => 'told' in one

export const toldLine = (one: Told): string => JSON.stringify(one)
export const toldOf = (line: string): Told => JSON.parse(line) as Told
