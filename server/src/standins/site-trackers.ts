import { Advertiser } from '../advertisers/advertiser-model.js'
import { Tracker } from '../advertisers/tracker-model.js'
import type { EventKind } from '@tin-harbor/core/taxonomy'
import type { TrackerReports } from '@tin-harbor/core/buying'

/** What the people of a site were given to build in. */
export interface BuiltIn {
  name: string
  kind: EventKind
  reports: TrackerReports
  key: string
  secret: string
}

/** Trackers of the advertiser whose site a host is. */
export async function builtInto(host: string): Promise<BuiltIn[]> {
  const advertisers = await Advertiser.findAll({ attributes: ['id'], where: { domain: host } })
  const trackers = await Tracker.findAll({ where: { advertiserId: advertisers.map(({ id }) => id) }, order: [['id', 'ASC']] })
  return trackers.map(({ name, kind, reports, pathKey, secret }) => ({ name, kind, reports, key: pathKey, secret }))
}
