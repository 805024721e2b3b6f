export * from './pivot.js'
export * from './trace.js'
export * from './shop-visits.js'
export * from './due.js'
