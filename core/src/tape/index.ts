export * from './layout.js'
export * from './build.js'
export * from './world-card.js'
export * from './export.js'
