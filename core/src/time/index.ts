export * from './market-time.js'
export * from './zones.js'
export * from './local.js'
