import sharp from 'sharp'
import { hash } from '@tin-harbor/core/random'

/**
 * Pictures of the made-up advertisers, drawn for this project from shapes alone: no fonts, so that they look the same on
 * every machine.
 */
export type Scene = 'night sky' | 'cargo bike' | 'brush strokes'

function stars(width: number, height: number): string {
  return Array.from({ length: 46 }, (_, n) => {
    const x = (hash(n, 1) % 1000) * (width / 1000)
    const y = (hash(n, 2) % 700) * (height / 1000)
    return `<circle cx="${x.toFixed(1)}" cy="${y.toFixed(1)}" r="${(0.5 + (hash(n, 3) % 10) / 8).toFixed(2)}" fill="#f4ead2" opacity="${0.4 + (hash(n, 4) % 60) / 100}"/>`
  }).join('')
}

function nightSky(w: number, h: number, share: number): string {
  const s = Math.min(w, h)
  const [x, y] = [w * 0.72, h * 0.86]
  // It rises, and stands where pictures show it.
  const moon = { x: w * (0.2 - 0.12 * (1 - share)), y: h * (0.36 + 0.5 * (1 - share)) }
  return `<defs><linearGradient id="g" x2="0" y2="1"><stop stop-color="#101b33"/><stop offset="1" stop-color="#3a4a6b"/></linearGradient></defs>
    <rect width="${w}" height="${h}" fill="url(#g)"/>${stars(w, h)}
    <circle cx="${moon.x}" cy="${moon.y}" r="${s * 0.16}" fill="#f0e2b6"/><circle cx="${moon.x + s * 0.07}" cy="${moon.y - s * 0.04}" r="${s * 0.14}" fill="#1b2846"/>
    <path d="M0 ${h} L0 ${h * 0.86} Q${w * 0.3} ${h * 0.72} ${w * 0.6} ${h * 0.88} T${w} ${h * 0.82} L${w} ${h} Z" fill="#0b1222"/>
    <g transform="translate(${x} ${y}) scale(${s / 130})" stroke="#d8c79a" stroke-width="3" fill="none"><path d="M0 0 L-14 26 M0 0 L14 26 M0 0 L0 28"/>
    <rect x="-34" y="-14" width="62" height="13" rx="3" fill="#d8c79a" transform="rotate(-32)"/><rect x="22" y="-17" width="9" height="19" rx="2" fill="#b3763a" stroke="none" transform="rotate(-32)"/></g>`
}

function cargoBike(w: number, h: number, share: number): string {
  const s = Math.min(w, h) / 120
  return `<rect width="${w}" height="${h}" fill="#eef0e4"/><rect y="${h * 0.8}" width="${w}" height="${h * 0.2}" fill="#7d9a86"/>
    <circle cx="${w * 0.84}" cy="${h * 0.26}" r="${18 * s}" fill="#e6b95c"/>
    <g transform="translate(${w * (0.5 - 0.7 * (1 - share))} ${h * 0.8 - 17 * s}) scale(${s})" fill="none" stroke="#24413a" stroke-width="4"><circle cx="-44" cy="0" r="16"/><circle cx="42" cy="4" r="12"/>
    <path d="M-44 0 L-30 -34 L-8 -34 M-30 -34 L-12 0 L-44 0 M-12 0 L-8 -40 L-16 -42 M-12 0 L42 4"/><path d="M-6 -30 L48 -30 L40 -4 L2 -4 Z" fill="#c2552d" stroke="none"/><path d="M-36 -37 L-22 -37"/></g>`
}

function brushStrokes(w: number, h: number, share: number): string {
  const s = Math.min(w, h) / 120
  /** Drawn one after the other. */
  const drawn = (n: number) => {
    const part = Math.min(1, Math.max(0, share * 3 - n))
    return share >= 1 ? '' : ` pathLength="1" stroke-dasharray="${part.toFixed(3)} 2" visibility="${part > 0 ? 'visible' : 'hidden'}"`
  }
  return `<rect width="${w}" height="${h}" fill="#f7f1e6"/><g transform="translate(${w * 0.5} ${h * 0.5}) scale(${s})" fill="none" stroke="#232323" stroke-linecap="round">
    <path d="M-40 -30 Q-6 -40 30 -34" stroke-width="9"${drawn(0)}/><path d="M-6 -44 Q-4 0 -24 40" stroke-width="10"${drawn(1)}/><path d="M-8 -4 Q16 -10 30 10 Q34 34 8 38" stroke-width="8"${drawn(2)}/></g>
    <rect x="${w * 0.5 + 38 * s}" y="${h * 0.5 + 22 * s}" width="${16 * s}" height="${16 * s}" rx="${3 * s}" fill="#b8322a"/>`
}

const DRAW: Readonly<Record<Scene, (w: number, h: number, share: number) => string>> = {
  'night sky': nightSky,
  'cargo bike': cargoBike,
  'brush strokes': brushStrokes
}

/** A scene as an SVG. @param share of its movement that is over */
export const sceneOf = (scene: Scene, width: number, height: number, share = 1) =>
  Buffer.from(`<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}">${DRAW[scene](width, height, share)}</svg>`)

/** A picture as PNG bytes. */
export function drawPicture(scene: Scene, width: number, height: number): Promise<Buffer> {
  return sharp(sceneOf(scene, width, height))
    .png({ palette: true })
    .toBuffer()
}
