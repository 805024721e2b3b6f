import type { Deps } from '../services/deps.js'
import { campaignRoutes } from './campaigns.js'
import { dealRoutes } from './deals.js'
import { forecastRoutes } from './forecast.js'
import { lineRoutes } from './lines.js'
import { listRoutes } from './lists.js'
import { marketRoutes } from './market.js'
import type { Route } from './registry.js'
import { reportRoutes } from './reports.js'
import { sessionRoutes } from './session.js'
import { slipRoutes } from './slips.js'

/** Every route of the interface. */
export function allRoutes(deps: Deps): Route[] {
  return [
    ...sessionRoutes(deps),
    ...marketRoutes(deps),
    ...campaignRoutes(deps),
    ...lineRoutes(deps),
    ...forecastRoutes(deps),
    ...reportRoutes(deps),
    ...listRoutes(deps),
    ...dealRoutes(deps),
    ...slipRoutes(deps)
  ]
}
