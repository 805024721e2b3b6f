export * from './advise.js'
export * from './change.js'
export * from './measure.js'
