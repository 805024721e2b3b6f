import { buildPages, buildServer } from './compile.mjs'
import { installBrowser, installDatabase, installFilms, installPackages } from './install.mjs'

/** npm run bench -- NAME: one line of figures, and the same as JSON below `.bench`. */
const name = process.argv[2]
await installPackages()
await buildServer()
if (name === 'forecast') {
  const { benchForecast } = await import('./bench/forecast.mjs')
  await benchForecast()
} else if (name === 'tape') {
  const { benchTape } = await import('./bench/tape.mjs')
  await benchTape()
} else if (name === 'market') {
  await installDatabase()
  await buildPages()
  const { benchMarket } = await import('./bench/market.mjs')
  await benchMarket()
} else if (name === 'campaigns') {
  const { benchCampaigns } = await import('./bench/campaigns.mjs')
  await benchCampaigns()
} else if (name === 'web') {
  await installDatabase()
  await installBrowser()
  await buildPages()
  const { benchWeb } = await import('./bench/web.mjs')
  await benchWeb()
} else if (name === 'asking') {
  await installDatabase()
  await buildPages()
  const { benchAsking } = await import('./bench/asking.mjs')
  await benchAsking()
} else if (name === 'creatives') {
  await installDatabase()
  await installFilms()
  await buildPages()
  const { benchCreatives } = await import('./bench/creatives.mjs')
  await benchCreatives()
} else if (name === 'events') {
  await installDatabase()
  await buildPages()
  const { benchEvents } = await import('./bench/events.mjs')
  await benchEvents()
} else if (name === 'tokens') {
  await installDatabase()
  await buildPages()
  const { benchTokens } = await import('./bench/tokens.mjs')
  await benchTokens()
} else if (name === 'long') {
  await installDatabase()
  await buildPages()
  const { benchLong } = await import('./bench/long.mjs')
  await benchLong(Number(process.argv[3] ?? 60), Number(process.argv[4] ?? 30))
} else {
  console.error('Name a benchmark: forecast, tape, market, campaigns, web, asking, creatives, events, tokens or long.')
  process.exit(2)
}
