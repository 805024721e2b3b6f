export * from './plain.js'
export * from './long.js'
export * from './read.js'
