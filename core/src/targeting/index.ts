export * from './specification.js'
export * from './compile.js'
export * from './conflicts.js'
