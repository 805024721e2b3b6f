/**
 * What a tracker counts: something bought, a visit that was arranged (a test ride, a table), something that is free to try, or what is
 * asked for on the way to it (a catalogue, a leaflet).
 */
export const EVENT_KINDS = ['purchase', 'booking', 'trial', 'request'] as const
export type EventKind = (typeof EVENT_KINDS)[number]

/** The kinds that an offer is for, the hardest to bring first; a request is on the way to one of them. */
export const OFFER_KINDS = ['purchase', 'booking', 'trial'] as const satisfies readonly EventKind[]
export type OfferKind = (typeof OFFER_KINDS)[number]

/** What an advertiser's requests are on the way to: the hardest of its other events. */
export function offerKind(kinds: Iterable<EventKind>): OfferKind {
  const all = new Set(kinds)
  return OFFER_KINDS.find((kind) => all.has(kind)) ?? 'purchase'
}
