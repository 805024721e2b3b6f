export * from './ads-txt.js'
export * from './sellers-json.js'
export * from './chain.js'
export * from './offers.js'
