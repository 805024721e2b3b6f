import { LRUCache } from 'lru-cache'
import type { Sequelize } from 'sequelize'
import { REPORT_DIMENSIONS, newSeen, readPerson, type ReportDimensionName, type Seen } from '@tin-harbor/core/dimensions'
import type { LogColumns } from '@tin-harbor/core/exchange'
import { DEVICE_TYPE, KEYWORDS_EACH, SOURCES, peopleOver, postalOf } from '@tin-harbor/core/market'
import { CITIES, COUNTRIES, POSTALS, POSTAL_COUNTRY, POSTAL_REGION, REGIONS } from '@tin-harbor/core/places'
import { chargedMicros } from '@tin-harbor/core/money'
import { DEVICE_TYPES, KEYWORDS } from '@tin-harbor/core/taxonomy'
import { zoneIndex } from '@tin-harbor/core/time'
import { publicationOf, readWins } from '../delivery/log.js'
import { rulesInForce } from '../going-live/publications.js'
import { placementName, type Catalogue } from '../market/catalogue.js'
import { marginOfLine } from '../money/terms.js'
import type { SharedWorld } from '../threads/shared-world.js'

/** Hours of the log that are kept open for what is told of their impressions. */
const MOST_HOURS = 24
const UTC = zoneIndex('UTC')

/** An impression of the log, with who saw it. */
export interface LoggedImpression {
  line: number
  ad: number
  person: number
  path: number
  device: number
  did: number
  /** Clearing price, micros an impression. */
  price: number
  seen: Seen
}

/** Reads single impressions of the log. */
export class Impressions {
  private readonly hours = new LRUCache<number, LogColumns>({ max: MOST_HOURS })
  private readonly words: Int32Array

  /** @param ready settles once the world's people are filled in */
  constructor(
    private readonly sequelize: Sequelize,
    private readonly catalogue: Catalogue,
    { size, people }: SharedWorld,
    private readonly ready: Promise<void>
  ) {
    this.words = peopleOver(people, size.people).words
  }

  /** Null where no such impression was bought. */
  async of(hour: number, place: number): Promise<LoggedImpression | null> {
    const log = await this.logOf(hour)
    if (!log || place >= log.count) return null
    await this.ready
    const seen = newSeen()
    const [line, ad, person, path, device] = [log.line[place], log.ad[place], log.person[place], log.path[place], log.device[place]]
    Object.assign(seen, { line, ad, path, device, page: log.page[place], state: log.state[place], nth: log.nth[place], hour })
    seen.deal = log.deal[place]
    readPerson(seen, this.words, person)
    return { line, ad, person, path, device, did: log.did[place], price: log.price[place], seen }
  }

  private async logOf(hour: number): Promise<LogColumns | null> {
    const known = this.hours.get(hour)
    if (known) return known
    for await (const { log } of readWins(this.sequelize, hour, hour + 1)) {
      this.hours.set(hour, log)
      return log
    }
    return null
  }

  /** The number of the deal that it was bought by; empty for the open market. The log has its place among the line's deals then. */
  private async dealOf({ deal, hour, line }: Seen): Promise<string> {
    if (deal === 0) return ''
    const publication = await publicationOf(this.sequelize, hour)
    const rules = publication === null ? [] : (await rulesInForce(publication)).lines
    return String(rules.find((one) => one.line === line)?.buys?.deals[deal - 1]?.deal ?? '')
  }

  /** What macros say of an impression. */
  async valuesOf({ line, path, price, seen }: LoggedImpression): Promise<Record<string, string>> {
    const placement = Math.floor(path / SOURCES.length)
    const named = placementName(this.catalogue, placement)
    const { inventory } = this.catalogue
    const postal = postalOf(seen.word0)
    const said = (by: ReportDimensionName, none: string) => {
      const { key, label } = REPORT_DIMENSIONS[by]
      const found = key(seen, { ...this.catalogue, zone: UTC })
      const words = label(typeof found === 'number' ? found : (found[0] ?? -1), { ...this.catalogue, zone: UTC })
      return words === none ? '' : (words ?? '')
    }
    return {
      PLACEMENT_ID: named.placement,
      PROPERTY: named.property,
      PUBLISHER_ID: String(inventory.properties[inventory.placements[placement].property].publisher),
      SOURCE: SOURCES[path % SOURCES.length].name,
      DEAL_ID: await this.dealOf(seen),
      AUCTION_PRICE: (price / 1000).toFixed(2),
      CLIENT_PRICE: (chargedMicros([{ costMicros: price, ppm: await marginOfLine(line, seen.hour) }]) / 1000).toFixed(2),
      AUCTION_CURRENCY: 'EUR',
      REGION: REGIONS[POSTAL_REGION[postal]].code,
      CITY: CITIES[POSTALS[postal].city].name,
      SYSTEM: said('system', ''),
      BROWSER: said('browser', ''),
      CARRIER: said('carrier', 'not by a carrier'),
      KEYWORD: KEYWORDS[inventory.pages.keywords[seen.page * KEYWORDS_EACH]]?.word ?? '',
      HOUR: said('hour of the viewer', '').slice(0, 2)
    }
  }
}

/** Country and class of device of who saw something. */
export const whereOf = (seen: Seen): { COUNTRY: string; DEVICE: string } => ({
  COUNTRY: COUNTRIES[POSTAL_COUNTRY[postalOf(seen.word0)]].code,
  DEVICE: DEVICE_TYPES[DEVICE_TYPE[seen.device]]
})
