export * from './places.js'
export * from './codes.js'
