/** A place on a property where one ad can be shown. */
export interface Placement {
  index: number
  property: number
  /** Index into `SHAPES`; it implies the format. */
  shape: number
  position: string
  /** Index into `VIDEO_POSITIONS`; -1 where there is none. */
  video: number
  rewarded: boolean
  skippable: boolean
  sound: boolean
  /** Bit d set: shown on device type d. */
  devices: number
  weight: number
  /** Price of rivals' bids against others of its kind, before place and page. */
  price: number
  /** Good and cheap: few know it. Hidden, as rates are. */
  bargain: boolean
  /** Floor in micros an impression before the source's factor. */
  floor: number
  /** Hidden true rates, in 1/65,536. Published figures carry an error: see `measures`. */
  viewable: number
  bots: number
  /** Pops that a browser holds back; 0 for other formats. */
  blocked: number
  stays: number
  clicks: number
  /** How well those who stay convert, against other placements of its format. */
  sells: number
  /** Views past the view point, of those that could be seen; 0 where there is nothing to watch or hear. */
  completes: number
}
