/** Small vocabularies that the market, targeting and the screens share. The position of a value is the number that columns hold. */
export * from './formats/index.js'
export * from './devices.js'
export * from './people.js'
export * from './content.js'
export * from './slots.js'
export * from './event-kinds.js'
