/** Where in a video or beside it a slot lies; the trade's terms. Other formats have none. */
export const VIDEO_POSITIONS = ['pre-roll', 'mid-roll', 'post-roll', 'outstream'] as const
export type VideoPosition = (typeof VIDEO_POSITIONS)[number]

/** What a slot is part of, and how it is sold. */
export const PROPERTY_CLASSES = ['site', 'app', 'game', 'social feed', 'mail inbox', 'newsletter', 'show', 'channel'] as const
export type PropertyClass = (typeof PROPERTY_CLASSES)[number]

/** Where a line may buy at all; each class of property belongs to one. */
export const ENVIRONMENTS = ['web', 'app', 'connected TV', 'audio'] as const
export type Environment = (typeof ENVIRONMENTS)[number]
export const ENVIRONMENT_OF: Readonly<Record<PropertyClass, Environment>> = {
  site: 'web',
  app: 'app',
  game: 'app',
  'social feed': 'app',
  'mail inbox': 'web',
  newsletter: 'web',
  show: 'audio',
  channel: 'connected TV'
}

export const AUCTION_KINDS = ['first price', 'second price'] as const
export type AuctionKind = (typeof AUCTION_KINDS)[number]

/** Whether a source sells for the publisher or buys from somebody who does. */
export const SELLERS = ['direct', 'reseller'] as const

export const GRADES = ['A', 'B', 'C', 'D', 'E'] as const
export type Grade = (typeof GRADES)[number]
