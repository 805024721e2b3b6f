export * from './hours.js'
export * from './rules.js'
