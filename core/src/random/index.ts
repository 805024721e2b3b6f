export * from './hash.js'
export * from './distributions.js'
