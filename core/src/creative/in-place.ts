import type { Shape } from '../taxonomy/index.js'
import { cutText } from './letters.js'
import { TEXTS } from './texts.js'

/** What stands round a slot where people meet it; all of it is made up. */
export const SURROUNDINGS = [
  'article',
  'feed',
  'app',
  'player',
  'television',
  'pop window',
  'podcast player',
  'mail list',
  'lock screen'
] as const
export type Surrounding = (typeof SURROUNDINGS)[number]

/** Slots of phones. */
const MOBILE = new Set<string>(['320x50', '320x100', 'interstitial, upright', 'interstitial, wide'])
const OWN: Readonly<Partial<Record<Shape, readonly Surrounding[]>>> = {
  'native card': ['feed', 'article'],
  'native row': ['mail list', 'feed'],
  notification: ['lock screen'],
  'small player': ['article'],
  'medium player': ['player'],
  'large player': ['television', 'player'],
  'audio spot': ['podcast player'],
  'whole page': ['pop window'],
  'redirect visit': ['pop window']
}

/** Where a slot is met, the usual first. */
export function surroundingsOf(shape: Shape): readonly Surrounding[] {
  const own = OWN[shape]
  if (own) return own
  return MOBILE.has(shape) ? ['app'] : shape === '300x250' ? ['article', 'app'] : ['article']
}

/** Pixels of a slot at which an ad is seen; null where its surroundings say. */
export function pixelsOf(shape: Shape): { width: number; height: number } | null {
  const [width, height] = shape.split('x').map(Number)
  if (width > 0 && height > 0) return { width, height }
  switch (shape) {
    case 'interstitial, upright':
      return { width: 320, height: 480 }
    case 'interstitial, wide':
      return { width: 480, height: 320 }
    case 'native card':
      return { width: 360, height: 330 }
    case 'native row':
      return { width: 520, height: 64 }
    case 'notification':
      return { width: 360, height: 92 }
    case 'small player':
      return { width: 400, height: 225 }
    case 'medium player':
      return { width: 640, height: 360 }
    case 'large player':
      return { width: 1280, height: 720 }
    case 'whole page':
    case 'redirect visit':
      return { width: 800, height: 500 }
    default:
      return null
  }
}

/** Texts that a slot shows of an ad, by their parts, with the letters after which it cuts each. */
const SLOT_TEXTS: Readonly<Partial<Record<Shape, Readonly<Record<string, number>>>>> = {
  'native card': {
    longHeadline: TEXTS.native.longHeadline.most,
    text: TEXTS.native.text.most,
    brand: TEXTS.native.brand.most,
    button: TEXTS.native.button.most
  },
  'native row': { headline: TEXTS.native.headline.most, text: 45, brand: TEXTS.native.brand.most },
  notification: { title: TEXTS.notification.title.most, text: TEXTS.notification.text.most }
}

/** The texts of an ad as a slot shows them, cut where it cuts them. */
export function textsIn(shape: Shape, parts: Readonly<Record<string, unknown>>): Record<string, string> {
  return Object.fromEntries(
    Object.entries(SLOT_TEXTS[shape] ?? {}).map(([part, most]) => [part, cutText(typeof parts[part] === 'string' ? parts[part] : '', most)])
  )
}
