export * from './hash.js'
export * from './distributions.js'
export * from './sequence.js'
