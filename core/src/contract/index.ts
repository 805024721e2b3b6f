/** What the server tells pages: the shapes of its answers, shared so that neither side can drift. */
export * from './shapes.js'
export * from './team.js'
export * from './campaigns.js'
export * from './lines.js'
export * from './results.js'
export * from './market.js'
export * from './holdings.js'
export * from './slips.js'
