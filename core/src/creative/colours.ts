/** Colours as `#rrggbb`. Luminance and contrast as WCAG 2.2 defines them. */

const channels = (colour: string) => [1, 3, 5].map((place) => Number.parseInt(colour.slice(place, place + 2), 16))
const hex = (values: readonly number[]) => `#${values.map((value) => Math.round(value).toString(16).padStart(2, '0')).join('')}`

/** Relative luminance, 0 for black to 1 for white. */
function luminance(colour: string): number {
  const [red, green, blue] = channels(colour).map((value) => {
    const share = value / 255
    return share <= 0.04045 ? share / 12.92 : ((share + 0.055) / 1.055) ** 2.4
  })
  return 0.2126 * red + 0.7152 * green + 0.0722 * blue
}

/** Contrast of two colours, from 1 to 21. */
export function contrast(a: string, b: string): number {
  const [high, low] = [luminance(a), luminance(b)].sort((one, other) => other - one)
  return (high + 0.05) / (low + 0.05)
}

/** Some of a colour laid over another. @param share of the first */
export const mixed = (colour: string, under: string, share: number): string => {
  const below = channels(under)
  return hex(channels(colour).map((value, n) => value * share + below[n] * (1 - share)))
}

const READABLE = 4.5
const [WHITE, SOOT, BLACK] = ['#ffffff', '#14181c', '#000000'] as const
/** The ink that is read better on a ground: of white and black one is always read. */
export function inkOn(ground: string): string {
  if (contrast(WHITE, ground) >= contrast(BLACK, ground)) return WHITE
  return contrast(SOOT, ground) >= READABLE ? SOOT : BLACK
}

/** How much of what lies behind a veil may be seen so that words on it are read, whatever lies there, black and white included. */
export function veilOver(ground: string): { opacity: number; ink: string } {
  const ink = inkOn(ground)
  for (let opacity = 0.6; opacity < 1; opacity += 0.02) {
    const worst = Math.min(...['#000000', '#ffffff'].map((behind) => contrast(ink, mixed(ground, behind, opacity))))
    if (worst >= READABLE) return { opacity: Math.round(opacity * 100) / 100, ink }
  }
  return { opacity: 1, ink }
}
