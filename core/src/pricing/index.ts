export * from './price.js'
export * from './deals.js'
export * from './programme.js'
export * from './break-even.js'
