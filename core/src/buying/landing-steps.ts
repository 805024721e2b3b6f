import { termsOfAd, type AdTerms } from './ad-terms.js'
import type { Landing } from './landings.js'

export const LANDING_LEVELS = ['ad', 'line', 'offer', 'campaign'] as const
export type LandingLevel = (typeof LANDING_LEVELS)[number]

/** Links at one of the places where they are said, nearest to the ad first. */
export interface LandingStep {
  level: LandingLevel
  landings: readonly Landing[]
}

/** What a link that is for everybody stands for. */
const forAll = (link: string | undefined): Landing[] => (link ? [{ countries: [], devices: [], link }] : [])

/** Who is to land somewhere; what is not known of them is null. */
export interface Lander {
  country: string | null
  device: string | null
}

/** Where links of an ad are said, nearest first; places that say nothing are left out. */
export function landingSteps(
  draft: { ads?: readonly AdTerms[]; landing: string; landings?: readonly Landing[] },
  ad: number | null,
  around: { offer?: readonly Landing[]; campaign?: readonly Landing[] } = {}
): LandingStep[] {
  const own = ad === null ? {} : termsOfAd(draft, ad)
  return (
    [
      ['ad', [...(own.landings ?? []), ...forAll(own.landing)]],
      ['line', [...(draft.landings ?? []), ...forAll(draft.landing)]],
      ['offer', around.offer ?? []],
      ['campaign', around.campaign ?? []]
    ] as const
  ).flatMap(([level, landings]) => (landings.length > 0 ? [{ level, landings }] : []))
}

/** How closely a link is for somebody: countries say more than devices; null where it is for others. */
function closeness({ countries, devices }: Landing, { country, device }: Lander): number | null {
  if (countries.length > 0 && (country === null || !countries.includes(country))) return null
  if (devices.length > 0 && (device === null || !devices.some((one) => one === device))) return null
  return (countries.length > 0 ? 2 : 0) + (devices.length > 0 ? 1 : 0)
}

/** The link that somebody follows: the nearest place that has one for them, and there the one that is most closely for them. */
export function landingFor(steps: readonly LandingStep[], who: Lander): { level: LandingLevel; link: string } | null {
  for (const { level, landings } of steps) {
    let best: { link: string; close: number } | null = null
    for (const landing of landings) {
      const close = closeness(landing, who)
      if (close !== null && (best === null || close > best.close)) best = { link: landing.link, close }
    }
    if (best) return { level, link: best.link }
  }
  return null
}

/** The link that a preview shows, which is seen by nobody in particular: where all links are for some, the first. */
export const linkOfPreview = (steps: readonly LandingStep[]): string =>
  landingFor(steps, { country: null, device: null })?.link ?? linksOf(steps).at(0) ?? ''

/** All that somebody may land on, each link once: places behind one that has a link for everybody are not reached. */
export function linksOf(steps: readonly LandingStep[]): string[] {
  const links: string[] = []
  for (const { landings } of steps) {
    links.push(...landings.map(({ link }) => link))
    if (landings.some(({ countries, devices }) => countries.length === 0 && devices.length === 0)) break
  }
  return [...new Set(links)]
}

/** Countries and classes of device of which nobody knows where they land, of those that a line buys. */
export function withoutLanding(
  steps: readonly LandingStep[],
  countries: readonly string[],
  devices: readonly string[]
): { country: string | null; device: string }[] {
  const wanted = countries.length > 0 ? countries : [null]
  return wanted.flatMap((country) =>
    devices.flatMap((device) => (landingFor(steps, { country, device }) === null ? [{ country, device }] : []))
  )
}
