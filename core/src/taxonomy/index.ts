/** Small vocabularies that the market, targeting and the screens share. The position of a value is the number that columns hold. */

export const FORMATS = ['display'] as const
export type Format = (typeof FORMATS)[number]

export const DEVICE_TYPES = ['phone', 'tablet', 'desktop'] as const
export type DeviceType = (typeof DEVICE_TYPES)[number]
export const DEVICE_NAMES: Readonly<Record<DeviceType, string>> = { phone: 'Phones', tablet: 'Tablets', desktop: 'Desktops' }

export const PROPERTY_CLASSES = ['site', 'app', 'newsletter'] as const
export type PropertyClass = (typeof PROPERTY_CLASSES)[number]

/** Display slots in CSS pixels, the shapes of the IAB fixed-size portfolio that this market sells. */
export const DISPLAY_SIZES = ['300x250', '728x90', '320x50', '300x600', '160x600', '970x250', '320x100', '336x280'] as const
export type DisplaySize = (typeof DISPLAY_SIZES)[number]

/** Subjects of pages, in our own words; ids of a public taxonomy are added only where they are certain. */
export const CATEGORIES = [
  'sky and science', 'nature', 'news', 'sport', 'food', 'travel', 'family', 'home', 'cycling', 'technology',
  'business', 'puzzles', 'music', 'languages', 'weather', 'health', 'arts', 'motoring'
] as const
export type Category = (typeof CATEGORIES)[number]

export const AUCTION_KINDS = ['first price', 'second price'] as const
export type AuctionKind = (typeof AUCTION_KINDS)[number]

export const GRADES = ['A', 'B', 'C', 'D', 'E'] as const
export type Grade = (typeof GRADES)[number]
