import type { Deps } from './deps.js'
import { advertiserRoutes } from './advertisers/routes.js'
import { campaignRoutes } from './campaigns/routes.js'
import { dealRoutes } from './deals/routes.js'
import { fitRoutes } from './files/fit-routes.js'
import { fileRoutes } from './files/routes.js'
import { versionRoutes } from './files/version-routes.js'
import { forecastRoutes } from './forecasts/routes.js'
import { plateRoutes } from './plates/routes.js'
import { feedRoutes } from './feeds/routes.js'
import { fetchingRoutes } from './fetching/routes.js'
import { vastRoutes } from './vast/routes.js'
import { previewRoutes } from './previews/routes.js'
import { mixRoutes } from './mixer/routes.js'
import { adRoutes } from './creatives/ad-routes.js'
import { hitRoutes } from './hits/routes.js'
import { linkRoutes } from './links/routes.js'
import { reviewRoutes } from './review/routes.js'
import { lineRoutes } from './lines/routes.js'
import { listRoutes } from './lists/routes.js'
import { moneyRoutes } from './money/routes.js'
import { marketRoutes } from './market/routes.js'
import * as told from '@tin-harbor/core/contract'
import { describeApi, type ApiDescription } from './http/openapi.js'
import { route, type Route } from './http/registry.js'
import { reportRoutes } from './results/routes.js'
import { teamRoutes } from './team/routes.js'
import { sandboxRoutes } from './sandbox/routes.js'
import { slipRoutes } from './slips/routes.js'

/** Every route of the interface. */
export function allRoutes(deps: Deps): Route[] {
  const routes: Route[] = [
    ...teamRoutes(deps),
    ...marketRoutes(deps),
    ...moneyRoutes(deps),
    ...campaignRoutes(deps),
    ...advertiserRoutes(deps),
    ...lineRoutes(deps),
    ...linkRoutes(deps),
    ...reviewRoutes(deps),
    ...hitRoutes(deps),
    ...adRoutes(deps),
    ...mixRoutes(deps),
    ...previewRoutes(deps),
    ...vastRoutes(deps),
    ...fetchingRoutes(deps),
    ...feedRoutes(deps),
    ...plateRoutes(deps),
    ...fileRoutes(deps),
    ...versionRoutes(deps),
    ...fitRoutes(deps),
    ...sandboxRoutes(deps),
    ...forecastRoutes(deps),
    ...reportRoutes(deps),
    ...listRoutes(deps),
    ...dealRoutes(deps),
    ...slipRoutes(deps)
  ]
  let description: ApiDescription | undefined
  routes.push(
    route({
      method: 'get',
      path: '/openapi.json',
      right: 'public',
      scope: 'market',
      answers: told.anything(),
      handle: () => Promise.resolve((description ??= describeApi(routes)))
    })
  )
  return routes
}
