import { plainAds, termsOfAd, withTail, withTerms, type FixableFinding, type LineDraft } from '../buying/index.js'
import { CLICK_MACRO, hasMacro, linkFindings } from '../creative/index.js'
import { isWatched, shapesOf } from '../taxonomy/index.js'
import { valuesOf } from '../targeting/index.js'
import { euros } from '../wording/index.js'
import { fixed, type Findings } from './collecting.js'
import type { AdFacts, PreflightContext } from './context.js'

/** Whether a link of a line loses conversions that servers report. */
export const losesClicks = (link: string, { campaign, trackers = 0 }: Pick<PreflightContext, 'campaign' | 'trackers'>) =>
  trackers > 0 &&
  (campaign.goal === 'conversions' || campaign.goal === 'revenue') &&
  !hasMacro(withTail(link, campaign.linkTail ?? ''), 'CLICK_ID')

/** The ads that a draft shows. */
export const adsOn = (draft: Pick<LineDraft, 'ads'>, ads: readonly AdFacts[]) =>
  ads.filter(({ id, stopped }) => !termsOfAd(draft, id).off && !stopped)

/** Shapes that a line would buy by what is chosen of it. */
function wantedShapes(line: Pick<LineDraft, 'targeting' | 'format'>): readonly string[] {
  const sizes = valuesOf(line.targeting, 'size')
  return sizes.length > 0 ? sizes : shapesOf(line.format)
}

/** Slots that a line would buy and for which it has no ad. */
export function bareShapes(line: Pick<LineDraft, 'targeting' | 'format' | 'ads'>, ads: readonly AdFacts[]): string[] {
  const has = new Set(adsOn(line, ads).flatMap(({ shapes }) => shapes))
  return wantedShapes(line).filter((shape) => !has.has(shape))
}

/** Ads that are stopped, by why. */
function stoppedWords(ads: readonly AdFacts[]): string {
  const by = new Map<string, string[]>()
  for (const { name, stopped } of ads) by.set(stopped ?? '', [...(by.get(stopped ?? '') ?? []), `“${name}”`])
  return [...by]
    .map(([reason, [first, ...others]]) => `${first}${others.length > 0 ? ` and ${others.length} more` : ''}, ${reason}`)
    .join('; ')
}

/** The ads of a line against its slots. */
export function adSlots(line: LineDraft, { ads, adFindings = [], campaign }: PreflightContext, { stops, warns }: Findings): void {
  const sizes = valuesOf(line.targeting, 'size')
  const on = adsOn(line, ads)
  const stopped = ads.filter((ad) => ad.stopped)
  if (on.length > 0 && stopped.length > 0) warns('ads', `Some of its ads are not shown: ${stoppedWords(stopped)}.`)
  if (ads.length === 0) stops('creatives', 'The line has no creative.')
  else if (on.length === 0 && stopped.length > 0) stops('ads', `None of its ads can be shown: ${stoppedWords(stopped)}.`)
  else if (on.length === 0)
    stops(
      'ads',
      'All its ads are off.',
      fixed('Turn them on', { field: 'ads', value: plainAds(line.ads?.map((terms) => ({ ...terms, off: false }))) })
    )
  const wanted = wantedShapes(line)
  if (on.length > 0 && !on.some(({ shapes }) => shapes.some((shape) => wanted.includes(shape))))
    stops('creatives', `No creative fits a chosen size: ${wanted.join(', ')}.`)
  for (const { ad, says, severity } of adFindings) (severity === 'stops' ? stops : warns)('creatives', `“${ad}”: ${says}`)
  const bare = sizes.length > 0 ? bareShapes(line, ads) : []
  if (on.length > 0 && bare.length > 0)
    warns(
      'targeting.size',
      `No creative for ${bare.join(', ')}: nothing will be bought there.`,
      bare.length === sizes.length
        ? null
        : fixed('Keep the sizes that have one', { field: 'targeting.size.include', value: sizes.filter((size) => !bare.includes(size)) })
    )
  if (campaign.goal === 'views' && !isWatched(line.format))
    warns('format', `The goal is views, which are measured of video and audio alone; this line buys ${line.format}.`)
}

/** What single ads have of their own. */
export function adTerms(line: LineDraft, context: PreflightContext, { stops, warns }: Findings): void {
  const { maxMicros, model } = line.price
  const { reach } = context
  const without = (ad: number, gone: Parameters<typeof withTerms>[2]): FixEdits => ({ field: 'ads', value: withTerms(line.ads, ad, gone) })
  for (const { id, name } of adsOn(line, context.ads)) {
    const { bidMicros, targeting, landing } = termsOfAd(line, id)
    if (bidMicros != null && maxMicros !== null && bidMicros > maxMicros)
      warns(
        'ads',
        `“${name}” bids ${euros(bidMicros)}, over the maximum of ${euros(maxMicros)}, where it is held.`,
        fixed(`Bid ${euros(maxMicros)} with it`, without(id, { bidMicros: maxMicros }))
      )
    const floors = reach?.floors
    if (bidMicros != null && model === 'CPM' && (line.buys?.open ?? true) && floors && bidMicros < floors.least)
      warns(
        'ads',
        `“${name}” bids ${euros(bidMicros)}, under every floor of what could match; the lowest is ${euros(floors.least)}.`,
        fixed('Bid as the line does', without(id, { bidMicros: null }))
      )
    if (reach?.neverShown.includes(id) && targeting)
      warns(
        'ads',
        `“${name}” is narrowed to what its line leaves out: nobody would see it.`,
        fixed('Show it to all of the line', without(id, { targeting: null }))
      )
    for (const { says, severity, instead } of landing ? linkFindings(landing, { wantsClicks: false }) : [])
      (severity === 'stops' ? stops : warns)(
        'ads',
        `The landing link of “${name}”: ${says}`,
        instead === null ? null : fixed('Write it so', without(id, { landing: instead }))
      )
    if (landing && losesClicks(landing, context))
      warns(
        'ads',
        `The landing link of “${name}” carries no click id: conversions reported by a server cannot be told to their clicks.`,
        fixed('Add the click id', without(id, { landing: withTail(landing, `click=${CLICK_MACRO}`) }))
      )
  }
}
type FixEdits = NonNullable<FixableFinding['fix']>['edits'][number]
