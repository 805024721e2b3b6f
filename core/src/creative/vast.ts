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

/** A hosted film or spot as a VAST 4.2 document (IAB Tech Lab, VAST 4.2, June 2019); macros in it are `[NAME]`. */
export function vastOf(ad: HostedAd): string {
  const told = (event: string, macros = '[CACHEBUSTING]') => `${ad.events}${ad.events.includes('?') ? '&' : '?'}event=${event}&at=${macros}`
  const isSound = ad.media.type.startsWith('audio/')
  const progress =
    ad.viewedAt === null ? '' : `<Tracking event="progress" offset="${clock(ad.viewedAt)}">${address(told('viewed'))}</Tracking>`
  const events = PLAYED_EVENTS.filter((event) => event !== 'skip' || ad.skipAfter !== null)
  const size = (file: { width: number | null; height: number | null }) => `width="${file.width ?? 0}" height="${file.height ?? 0}"`
  const { media, companion, icon } = ad
  return [
    '<?xml version="1.0" encoding="UTF-8"?>',
    `<VAST version="4.2" xmlns="http://www.iab.com/VAST">`,
    ` <Ad id="${ad.id}"${isSound ? ' adType="audio"' : ''}>`,
    '  <InLine>',
    '   <AdSystem version="1">Tin Harbor</AdSystem>',
    `   <AdTitle>${escaped(ad.title)}</AdTitle>`,
    `   <AdServingId>tin-harbor-${ad.id}</AdServingId>`,
    `   <Advertiser>${escaped(ad.advertiser)}</Advertiser>`,
    `   <Error>${address(told('error', '[ERRORCODE]'))}</Error>`,
    `   <Impression id="tin-harbor">${address(told('impression'))}</Impression>`,
    `   <ViewableImpression id="tin-harbor"><Viewable>${address(told('viewable'))}</Viewable></ViewableImpression>`,
    '   <Creatives>',
    `    <Creative id="${ad.id}" sequence="1">`,
    `     <UniversalAdId idRegistry="tin-harbor.example">${ad.id}</UniversalAdId>`,
    `     <Linear${ad.skipAfter === null ? '' : ` skipoffset="${clock(ad.skipAfter)}"`}>`,
    `      <Duration>${clock(ad.seconds)}</Duration>`,
    ...(icon
      ? [
          `      <Icons><Icon program="tin-harbor" ${size(icon)} xPosition="right" yPosition="top"><StaticResource creativeType="${icon.type}">${address(icon.address)}</StaticResource></Icon></Icons>`
        ]
      : []),
    `      <TrackingEvents>${events.map((event) => `<Tracking event="${event}">${address(told(event))}</Tracking>`).join('')}${progress}</TrackingEvents>`,
    `      <VideoClicks><ClickThrough id="tin-harbor">${address(ad.landing)}</ClickThrough><ClickTracking>${address(told('click'))}</ClickTracking></VideoClicks>`,
    `      <MediaFiles><MediaFile delivery="progressive" type="${escaped(media.type)}" ${size(media)}${media.kbps === null ? '' : ` bitrate="${Math.round(media.kbps)}"`}>${address(media.address)}</MediaFile></MediaFiles>`,
    '     </Linear>',
    '    </Creative>',
    ...(companion
      ? [
          `    <Creative id="${ad.id}-companion"><CompanionAds><Companion id="1" ${size(companion)}><StaticResource creativeType="${companion.type}">${address(companion.address)}</StaticResource><CompanionClickThrough>${address(ad.landing)}</CompanionClickThrough><TrackingEvents><Tracking event="creativeView">${address(told('companion'))}</Tracking></TrackingEvents></Companion></CompanionAds></Creative>`
        ]
      : []),
    '   </Creatives>',
    '  </InLine>',
    ' </Ad>',
    '</VAST>',
    ''
  ].join('\n')
}
