/** Events of a film or a spot that a player tells, in the order in which they come; IAB VAST 4.2, 3.14.1. */
export const PLAYED_EVENTS = ['start', 'firstQuartile', 'midpoint', 'thirdQuartile', 'complete', 'skip', 'mute', 'unmute'] as const

/** A film or a spot that is hosted here, as VAST tells it. */
export interface HostedAd {
  id: number
  title: string
  advertiser: string
  seconds: number
  /** Seconds after which it may be skipped; null where it may not. */
  skipAfter: number | null
  /** Second at which it counts as viewed; null for its end. */
  viewedAt: number | null
  landing: string
  media: { address: string; type: string; width: number | null; height: number | null; kbps: number | null }
  companion: { address: string; type: string; width: number; height: number } | null
  icon: { address: string; type: string; width: number; height: number } | null
  /** What is shown when it is over. */
  endCard: { address: string; type: string; width: number; height: number } | null
  /** What stands over the film to be clicked, and from which second on. */
  overlay: { text: string; from: number } | null
  /** What a player says while it is heard. */
  tagline: string | null
  /** Where events are told: an address to which a name and the macros are added. */
  events: string
}

const NAMED: Readonly<Record<string, string>> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;', "'": '&apos;' }
const escaped = (text: string) => text.replace(/[&<>"']/g, (letter) => NAMED[letter])
/** An address, which may hold macros in brackets; the end of such a section cannot stand in it. */
const address = (text: string) => `<![CDATA[${text.replace(/\]\]>/g, ']]%3E')}]]>`
/** Seconds as HH:MM:SS.mmm. */
function clock(seconds: number): string {
  const whole = Math.round(seconds * 1000)
  const two = (value: number) => String(Math.floor(value)).padStart(2, '0')
  return `${two(whole / 3_600_000)}:${two((whole / 60_000) % 60)}:${two((whole / 1000) % 60)}.${String(whole % 1000).padStart(3, '0')}`
}

/** An element with its attributes in order; what it holds is markup already. */
const element = (name: string, attributes: Readonly<Record<string, string | number | undefined>>, ...holds: string[]): string => {
  const said = Object.entries(attributes).flatMap(([key, value]) => (value === undefined ? [] : [` ${key}="${escaped(String(value))}"`]))
  return `<${name}${said.join('')}>${holds.join('')}</${name}>`
}
type Still = NonNullable<HostedAd['companion']>

/** Pixels that a call over a film asks for. */
const OVERLAY = { width: 240, height: 44 } as const
/** A call over a film, as a small page of its own; IAB VAST 4.2, 3.9. No field of VAST says when it begins: an extension of ours does. */
const overlayOf = ({ text }: NonNullable<HostedAd['overlay']>, landing: string, told: string) =>
  element(
    'NonLinearAds',
    {},
    element('TrackingEvents', {}, element('Tracking', { event: 'creativeView' }, told)),
    element(
      'NonLinear',
      { id: 'call', ...OVERLAY, minSuggestedDuration: clock(5) },
      element(
        'HTMLResource',
        {},
        address(`<div style="font:600 16px sans-serif;padding:11px 16px;background:#fff;color:#14181c">${escaped(text)}</div>`)
      ),
      element('NonLinearClickThrough', {}, address(landing))
    )
  )

const sizeOf = ({ width, height }: { width: number | null; height: number | null }) => ({ width: width ?? 0, height: height ?? 0 })

/** A hosted film or spot as a VAST 4.2 document (IAB Tech Lab, VAST 4.2, June 2019); macros in it are `[NAME]`. */
export function vastOf(ad: HostedAd): string {
  const { media, companion, icon, skipAfter, viewedAt } = ad
  const told = (event: string, macros = '[CACHEBUSTING]') =>
    address(`${ad.events}${ad.events.includes('?') ? '&' : '?'}event=${event}&at=${macros}`)
  const still = (file: { address: string; type: string }) => element('StaticResource', { creativeType: file.type }, address(file.address))
  const ours = { id: 'tin-harbor' }
  const events = PLAYED_EVENTS.filter((event) => event !== 'skip' || skipAfter !== null)
  const linear = [
    element('Duration', {}, clock(ad.seconds)),
    ...(icon
      ? [element('Icons', {}, element('Icon', { program: ours.id, ...sizeOf(icon), xPosition: 'right', yPosition: 'top' }, still(icon)))]
      : []),
    element(
      'TrackingEvents',
      {},
      ...events.map((event) => element('Tracking', { event }, told(event))),
      viewedAt === null ? '' : element('Tracking', { event: 'progress', offset: clock(viewedAt) }, told('viewed'))
    ),
    element('VideoClicks', {}, element('ClickThrough', ours, address(ad.landing)), element('ClickTracking', {}, told('click'))),
    element(
      'MediaFiles',
      {},
      element(
        'MediaFile',
        { delivery: 'progressive', type: media.type, ...sizeOf(media), bitrate: media.kbps === null ? undefined : Math.round(media.kbps) },
        address(media.address)
      )
    )
  ]
  const beside = (file: Still, id: number, renderingMode: string, event: string) =>
    element(
      'Companion',
      { id, ...sizeOf(file), renderingMode },
      still(file),
      element('CompanionClickThrough', {}, address(ad.landing)),
      element('TrackingEvents', {}, element('Tracking', { event: 'creativeView' }, told(event)))
    )
  const companions = [
    ...(companion ? [beside(companion, 1, 'concurrent', 'companion')] : []),
    ...(ad.endCard ? [beside(ad.endCard, 2, 'end-card', 'end-card')] : [])
  ]
  const creatives = [
    element(
      'Creative',
      { id: ad.id, sequence: 1 },
      element('UniversalAdId', { idRegistry: 'tin-harbor.example' }, String(ad.id)),
      element('Linear', { skipoffset: skipAfter === null ? undefined : clock(skipAfter) }, ...linear)
    ),
    ...(ad.overlay ? [element('Creative', { id: `${ad.id}-overlay` }, overlayOf(ad.overlay, ad.landing, told('overlay')))] : []),
    ...(companions.length > 0 ? [element('Creative', { id: `${ad.id}-companion` }, element('CompanionAds', {}, ...companions))] : [])
  ]
  return [
    '<?xml version="1.0" encoding="UTF-8"?>',
    '<VAST version="4.2" xmlns="http://www.iab.com/VAST">',
    `<Ad id="${ad.id}"${media.type.startsWith('audio/') ? ' adType="audio"' : ''}>`,
    '<InLine>',
    element('AdSystem', { version: 1 }, 'Tin Harbor'),
    element('AdTitle', {}, escaped(ad.title)),
    ad.tagline === null ? '' : element('Description', {}, escaped(ad.tagline)),
    element('AdServingId', {}, `tin-harbor-${ad.id}`),
    element('Advertiser', {}, escaped(ad.advertiser)),
    element('Error', {}, told('error', '[ERRORCODE]')),
    element('Impression', ours, told('impression')),
    element('ViewableImpression', ours, element('Viewable', {}, told('viewable'))),
    '<Creatives>',
    ...creatives,
    '</Creatives>',
    ...(ad.overlay
      ? [element('Extensions', {}, element('Extension', { type: 'tin-harbor.example' }, element('CallFrom', {}, clock(ad.overlay.from))))]
      : []),
    '</InLine>',
    '</Ad>',
    '</VAST>',
    ''
  ].join('\n')
}
