import { SOURCES } from '../market/index.js'
import { DISPLAY_SIZES, SHAPES, type Shape } from '../taxonomy/index.js'
import type { Medium } from './facts.js'

const KB = 1024
const MB = 1024 * KB

export interface Bounds {
  least: number
  most: number
}
export const isWithin = (value: number, { least, most }: Bounds) => value >= least && value <= most

/** What a slot takes as one part of an ad. */
export interface PartSpecification {
  /** Part of the ad that it is. */
  part: string
  medium: Medium
  /** By content. */
  types: readonly string[]
  mostBytes: number
  /** Pixels of the slot itself; a file may have twice or three times as many each way, for dense screens. */
  exact: { width: number; height: number; times: readonly number[] } | null
  least: { width: number; height: number } | null
  most: { width: number; height: number } | null
  /** Width by height, of which one must be met within `RATIO_SLACK`. */
  ratios: readonly number[]
  seconds: Bounds | null
  /** How long a picture may move before it stands still. */
  movesSeconds: number | null
  seenCodecs: readonly string[]
  heardCodecs: readonly string[]
  framesASecond: Bounds | null
  /** Of the whole file. */
  kbps: Bounds | null
  sound: 'needed' | 'may be' | 'none'
  /** LUFS. */
  loudness: Bounds | null
  /** Of a banner: bytes of all that it holds, unpacked. */
  mostUnpacked: number | null
}

/**
 * What browsers publish as an ad that takes too much, and unload, unless somebody touched it: bytes over the network, and seconds of the
 * processor in any half minute and in all.
 */
export const HEAVY_AD = { bytes: 4 * MB, secondsOfThirty: 15, seconds: 60 } as const

/** Share by which a ratio may be off: a pixel or two of a scaled film. */
export const RATIO_SLACK = 0.012

const PICTURES = ['image/png', 'image/jpeg', 'image/gif', 'image/webp'] as const
const NOTHING: Omit<PartSpecification, 'part' | 'medium' | 'types' | 'mostBytes'> = {
  exact: null,
  least: null,
  most: null,
  ratios: [],
  seconds: null,
  movesSeconds: null,
  seenCodecs: [],
  heardCodecs: [],
  framesASecond: null,
  kbps: null,
  sound: 'none',
  loudness: null,
  mostUnpacked: null
}

const picture = (part: string, mostBytes: number, more: Partial<PartSpecification>): PartSpecification => ({
  ...NOTHING,
  part,
  medium: 'picture',
  types: PICTURES,
  mostBytes,
  movesSeconds: 30,
  ...more
})
const still = (part: string, mostBytes: number, more: Partial<PartSpecification>): PartSpecification =>
  picture(part, mostBytes, { types: PICTURES.filter((type) => type !== 'image/gif'), movesSeconds: 0, ...more })

/** A slot of fixed pixels takes a picture of its size. */
const display = (width: number, height: number, mostBytes = 200 * KB): readonly PartSpecification[] => [
  picture('file', mostBytes, { exact: { width, height, times: [1, 2, 3] } }),
  {
    ...NOTHING,
    part: 'file',
    medium: 'banner',
    types: ['application/zip'],
    mostBytes: 600 * KB,
    exact: { width, height, times: [1] },
    mostUnpacked: HEAVY_AD.bytes
  }
]

const film = (width: number, height: number, ratios: readonly number[], more: Partial<PartSpecification> = {}): PartSpecification => ({
  ...NOTHING,
  part: 'file',
  medium: 'film',
  types: ['video/mp4', 'video/webm'],
  mostBytes: 10 * MB,
  least: { width, height },
  most: { width: 3840, height: 2160 },
  ratios,
  seconds: { least: 6, most: 60 },
  seenCodecs: ['h264', 'vp8', 'vp9'],
  heardCodecs: ['aac', 'opus', 'vorbis'],
  framesASecond: { least: 23, most: 60 },
  kbps: { least: 100, most: 8000 },
  sound: 'needed',
  loudness: { least: -26, most: -14 },
  ...more
})
const WIDE = 16 / 9
const SQUARE = 1
const UPRIGHT = 9 / 16
/** Of the picture of a card in a feed. */
const CARD = 1.91

const sizeOf = (size: string) => size.split('x').map(Number) as [number, number]

/** What each slot shape takes. One table for the page that shows it, for checks, preflight and reviewers. */
export const SPECIFICATION = {
  ...(Object.fromEntries(DISPLAY_SIZES.map((size) => [size, display(...sizeOf(size))])) as Record<
    (typeof DISPLAY_SIZES)[number],
    readonly PartSpecification[]
  >),
  'interstitial, upright': display(320, 480, 300 * KB),
  'interstitial, wide': display(480, 320, 300 * KB),
  'native card': [
    still('picture', 300 * KB, { least: { width: 600, height: 314 }, most: { width: 2400, height: 1257 }, ratios: [CARD] }),
    still('icon', 60 * KB, { least: { width: 80, height: 80 }, most: { width: 1024, height: 1024 }, ratios: [SQUARE] })
  ],
  'native row': [still('icon', 60 * KB, { least: { width: 80, height: 80 }, most: { width: 1024, height: 1024 }, ratios: [SQUARE] })],
  notification: [
    still('icon', 60 * KB, { least: { width: 192, height: 192 }, most: { width: 1024, height: 1024 }, ratios: [SQUARE] }),
    still('picture', 200 * KB, { least: { width: 360, height: 180 }, most: { width: 1440, height: 720 }, ratios: [2] })
  ],
  'small player': [film(256, 144, [WIDE, SQUARE, UPRIGHT, 4 / 3])],
  'medium player': [film(640, 360, [WIDE, SQUARE, UPRIGHT])],
  'large player': [film(1280, 720, [WIDE])],
  'audio spot': [
    {
      ...NOTHING,
      part: 'file',
      medium: 'sound',
      types: ['audio/mpeg', 'audio/mp4', 'audio/ogg', 'audio/webm', 'audio/wav'],
      mostBytes: 3 * MB,
      seconds: { least: 5, most: 60 },
      heardCodecs: ['mp3', 'aac', 'opus', 'vorbis', 'pcm_s16le'],
      kbps: { least: 64, most: 1500 },
      sound: 'needed',
      loudness: { least: -20, most: -14 }
    }
  ],
  'whole page': [],
  'redirect visit': []
} satisfies Record<Shape, readonly PartSpecification[]>

/** What stands beside a film: pictures that no slot asks for, and players show. */
export const BESIDE_FILMS: readonly PartSpecification[] = [
  still('endCard', 200 * KB, { least: { width: 300, height: 168 }, most: { width: 1920, height: 1920 } }),
  still('icon', 60 * KB, { least: { width: 40, height: 40 }, most: { width: 1024, height: 1024 }, ratios: [SQUARE] })
]

/** The slot that a banner of some pixels fills. */
export const BANNER_SLOTS: Readonly<Record<string, Shape>> = Object.fromEntries(
  SHAPES.flatMap((shape) =>
    SPECIFICATION[shape].flatMap((one: PartSpecification): [string, Shape][] =>
      one.medium === 'banner' && one.exact ? [[`${one.exact.width}x${one.exact.height}`, shape]] : []
    )
  )
)

interface Limits {
  filmSeconds: number
  spotSeconds: number
  filmBytes: number
}

/** What a source takes less than the market: longest film and spot in seconds, heaviest film in bytes. */
export const SOURCE_LIMITS: Readonly<Record<string, Limits>> = {
  Tidewater: { filmSeconds: 30, spotSeconds: 30, filmBytes: 10 * MB },
  Northgate: { filmSeconds: 30, spotSeconds: 60, filmBytes: 8 * MB },
  Pennant: { filmSeconds: 30, spotSeconds: 30, filmBytes: 4 * MB },
  Hatchway: { filmSeconds: 60, spotSeconds: 60, filmBytes: 10 * MB },
  Sluice: { filmSeconds: 15, spotSeconds: 30, filmBytes: 4 * MB },
  Graven: { filmSeconds: 60, spotSeconds: 60, filmBytes: 10 * MB }
}

/** What a deal takes less: at a fixed price publishers sell breaks of half a minute. */
export const DEAL_LIMITS: Readonly<Partial<Record<'fixed' | 'floor', Limits>>> = {
  fixed: { filmSeconds: 30, spotSeconds: 30, filmBytes: 10 * MB }
}

const narrower = (bounds: Bounds | null, most: number): Bounds | null => bounds && { ...bounds, most: Math.min(bounds.most, most) }

function within(shape: Shape, limits: Limits | undefined): readonly PartSpecification[] {
  return SPECIFICATION[shape].map((one): PartSpecification => {
    if (!limits) return one
    if (one.medium === 'film')
      return { ...one, seconds: narrower(one.seconds, limits.filmSeconds), mostBytes: Math.min(one.mostBytes, limits.filmBytes) }
    return one.medium === 'sound' ? { ...one, seconds: narrower(one.seconds, limits.spotSeconds) } : one
  })
}

/** What a slot takes of one source: never more than the slot takes at all. @param source name */
export const takenBy = (shape: Shape, source: string | null) => within(shape, source === null ? undefined : SOURCE_LIMITS[source])

/** What a slot takes of a deal, by how its price is made. */
export const takenByDeal = (shape: Shape, kind: 'fixed' | 'floor') => within(shape, DEAL_LIMITS[kind])

/** Shapes that take a medium as some part. */
export const shapesTaking = (medium: Medium): readonly Shape[] =>
  SHAPES.filter((shape) => SPECIFICATION[shape].some((one) => one.medium === medium))

export const SOURCE_NAMES: readonly string[] = SOURCES.map((source) => source.name)
