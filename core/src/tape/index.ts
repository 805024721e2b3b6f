export * from './tape.js'
