import type { DeviceType } from '../devices.js'
import type { OfferKind } from '../event-kinds.js'
import type { PropertyClass, VideoPosition } from '../slots.js'

/** What people pay for. `view` is a view of video or audio past the view point; `visit` is a pop's page opened. */
export const PRICE_MODELS = ['CPM', 'CPC', 'view', 'visit'] as const
export type PriceModel = (typeof PRICE_MODELS)[number]

/** A slot's shape: what an ad must be to fit it, and what such slots are like in the market. */
export interface ShapeEntry {
  devices: readonly DeviceType[]
  /** Price of a thousand, micros an impression, at price level 1. */
  price: number
  /** Of those who could see it, in the mean. */
  clicks: number
  /** How much better it is seen than a box in the text, and how much traffic it has against it. */
  view: number
  traffic: number
  /** Where on a page it lies. */
  positions: readonly string[]
}
export const shape = (
  devices: readonly DeviceType[],
  price: number,
  clicks: number,
  view: number,
  traffic: number,
  positions: readonly string[]
): ShapeEntry => ({ devices, price, clicks, view, traffic, positions })

/** A slot that properties of a class have. */
export interface SlotEntry<Shape extends string = string> {
  shape: Shape
  /** Chance that a property of the class has such a slot. */
  chance: number
  video?: VideoPosition
  rewarded?: true
  /** Slots of a class are drawn by turn, then format by format: one seed must give one world. */
  turn?: number
}
export const slot = <Shape extends string>(
  name: Shape,
  chance: number,
  more: Omit<SlotEntry, 'shape' | 'chance'> = {}
): SlotEntry<Shape> => ({ shape: name, chance, ...more })

/** What is priced apart within a format: what rivals pay in the middle and what comes of it in rich countries, in the mean. */
export interface KindEntry {
  /** At price level 1, micros an impression. */
  price: number
  viewable: number
  /** Clicks of those who could see it. */
  clicks: number
  /** Of those who click, or whom a pop brings, who stays. */
  stays: number
}

/** What a placement says of a film or a spot. */
export interface Watching {
  television: boolean
  rewarded: boolean
  skippable: boolean
}

/** What is watched or heard from a beginning to an end. */
interface Watched {
  /** Length that is assumed before a line has an ad. */
  usualSeconds: number
  /** Usual share that reaches the end. */
  reachesEnd: (placement: Watching) => number
  /** A film, which can be skipped; of sound alone there is nothing to skip, and it is always on. */
  isFilm: boolean
}

/**
 * A format: its slots, how it is bought, and how the market sells and answers it. The second half is what a buyer finds out by buying:
 * only the market and the response read it.
 */
export interface FormatEntry {
  shapes: Readonly<Record<string, ShapeEntry>>
  /** Price models that its inventory offers, and the one that a line begins with. */
  models: readonly PriceModel[]
  usualModel: PriceModel
  watched?: Watched
  /** Whoever is shown it has come: its page is the ad. Browsers hold some of it back. */
  arrives?: true

  slots: Partial<Readonly<Record<PropertyClass | 'anonymous', readonly SlotEntry[]>>>
  /** What of each device's opportunities it is, in hundredths; none where left out. */
  onDevices: Partial<Readonly<Record<DeviceType, number>>>
  /** How much of it each source carries, relative to the other formats; none where left out. */
  carriedBy: Readonly<Record<string, number>>
  /** What is priced apart, and which of them a slot is. */
  kinds: Readonly<Record<string, KindEntry>>
  kindOf: (shape: string, property: { class: PropertyClass; show: 'music' | 'podcast' | null }) => string
  /** Conversions of those who stay, against display. */
  converts: Readonly<Record<OfferKind, number>>
  /** How much an impression that could be seen or heard adds to what its person would do by themselves that day. */
  lifts: number
  liftsOnTelevision?: number
}
