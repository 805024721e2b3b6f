export * from './specification.js'
export * from './compile.js'
