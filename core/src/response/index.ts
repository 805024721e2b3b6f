export * from './rates.js'
export * from './benchmarks.js'
export * from './events.js'
export * from './touches.js'
