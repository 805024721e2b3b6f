import { PERSON_WORDS, SOURCES, profileOf, postalOf, type World } from '../market/index.js'
import { POSTALS, POSTAL_COUNTRY, placeTest } from '../places/index.js'
import {
  BLOCK_MINUTES,
  ConversionModel,
  DID,
  quartersOf,
  PRIMED_MINUTES,
  Responses,
  attribute,
  eventRates,
  type Counted,
  type Shown,
  type Touch
} from '../response/index.js'
import { SHAPE_FORMAT, offerKind, IS_FILM } from '../taxonomy/index.js'
import { LONGEST_CAP_MINUTES } from './caps.js'
import { EXPOSED, type ExposureBook } from './exposures.js'
import type { EventRow } from './log.js'
import type { Sold } from './learning.js'
import type { LineRules, PublicationRules, ShopRules, TrackerRules } from './rules.js'
import { NOTHING_TOLD, TOLD_EVENTS, ToldDeeds, type ToldInput, type ToldOutcome } from './told.js'

/** A conversion that has been drawn and not yet happened. */
export interface Pending {
  minute: number
  person: number
  tracker: number
  advertiser: number
  valueMicros: number
  /** Whether they would have done it without any ad: of these one is drawn for all that they saw. */
  own?: true
  /** Number of the row in which it was told, rather than drawn. */
  told?: number
}

interface OwnTouch extends Touch {
  line: number
  ad: number
  path: number
  device: number
}

/** What four bytes of the log hold, micros. */
const MOST_VALUE = 2 ** 32 - 1

/** Who clicked, or was sent by a pop and stayed, came by it; a page that merely opened was seen. */
const isClick = (did: number) => (did & (DID.clicked | DID.stayed)) !== 0

/** How people respond to the ads of a publication. */
export function responsesOf({ seed }: World, { made = [] }: PublicationRules): Responses {
  return new Responses(seed, new Map(made.map(({ ad, content }) => [ad, content])))
}

/** Which postal areas are near a shop, by advertiser. */
function nearShops(shops: readonly ShopRules[]): Map<number, Uint8Array> {
  const near = new Map<number, Uint8Array>()
  for (const { advertiser, place } of shops) {
    const test = placeTest(place)
    if (!test) continue
    const areas = near.get(advertiser) ?? new Uint8Array(POSTALS.length)
    POSTALS.forEach((postal, n) => {
      if (test(postal)) areas[n] = 1
    })
    near.set(advertiser, areas)
  }
  return near
}

/** What a conversion is said to be worth, micros: the mean over the trackers that say; 0 when none does. */
function worthOf(trackers: readonly TrackerRules[]): number {
  const said = trackers.flatMap((tracker) => tracker.valueMicros ?? [])
  return said.length > 0 ? said.reduce((sum, value) => sum + value, 0) / said.length : 0
}

/** What is known of a line's conversions before there are any. @param trackers of its advertiser */
export function soldBy({ ads, shapes }: Pick<LineRules, 'ads' | 'shapes'>, trackers: readonly TrackerRules[]): Sold {
  const format = SHAPE_FORMAT[ads[0]?.shape ?? shapes?.[0] ?? 0]
  return { worth: worthOf(trackers), rates: eventRates(format, trackers) }
}

/** Conversions to come, and what earned them when they happen. */
export class Conversions {
  private readonly byHour = new Map<number, Pending[]>()
  private readonly advertiserOf: ReadonlyMap<number, number>
  private readonly linesOf = new Map<number, number[]>()
  private readonly trackersOf = new Map<number, (TrackerRules & Counted)[]>()
  private readonly model: ConversionModel
  private readonly words: Int32Array
  private readonly placements: World['inventory']['placements']

  constructor(
    world: World,
    responses: Responses,
    { owners = [], trackers = [], shops = [] }: PublicationRules,
    pending: readonly Pending[],
    private readonly deeds = new ToldDeeds()
  ) {
    this.words = world.persons.words
    this.placements = world.inventory.placements
    this.model = new ConversionModel(world.seed, world.profiles, responses, nearShops(shops))
    this.advertiserOf = new Map(owners.map(({ line, advertiser }) => [line, advertiser]))
    for (const { line, advertiser } of owners) this.linesOf.set(advertiser, [...(this.linesOf.get(advertiser) ?? []), line])
    for (const advertiser of new Set(trackers.map((tracker) => tracker.advertiser))) {
      const own = trackers.filter((tracker) => tracker.advertiser === advertiser)
      const asked = offerKind(own.map(({ kind }) => kind))
      this.trackersOf.set(
        advertiser,
        own.map((tracker) => ({ ...tracker, subject: tracker.subject ?? null, offer: tracker.kind === 'request' ? asked : tracker.kind }))
      )
    }
    for (const one of pending) this.note(one)
  }

  /** What is known of a line's conversions before there are any. */
  sold(rules: LineRules): Sold {
    const trackers = this.trackersOf.get(this.advertiserOf.get(rules.line) ?? -1) ?? []
    return soldBy(rules, trackers)
  }

  /** What a visitor who stays did before: whether a film of the advertiser had prepared them. @returns the bit, or 0 */
  primed({ line, person }: Shown, minute: number, exposures: ExposureBook): number {
    const advertiser = this.advertiserOf.get(line)
    if (advertiser === undefined) return 0
    const watched = (this.linesOf.get(advertiser) ?? []).some((other) =>
      exposures.impressions(EXPOSED.line(other), person).some(
        ({ minute: then, did, path }) =>
          then > minute - PRIMED_MINUTES &&
          then < minute &&
          // To its end, wherever the line's view point lies: what is counted changes nobody.
          quartersOf(did) === 4 &&
          IS_FILM[SHAPE_FORMAT[this.placements[Math.floor(path / SOURCES.length)].shape]]
      )
    )
    return watched ? DID.primed : 0
  }

  private note(one: Pending): void {
    const hour = Math.floor(one.minute / 60)
    const due = this.byHour.get(hour)
    if (due) due.push(one)
    else this.byHour.set(hour, [one])
  }

  /** What follows an impression, by tracker of its advertiser. */
  drawn(shown: Shown, did: number, person: number, minute: number): Pending[] {
    const advertiser = this.advertiserOf.get(shown.line)
    if (advertiser === undefined || did === 0) return []
    const found: Pending[] = []
    for (const counted of this.trackersOf.get(advertiser) ?? []) {
      const { tracker } = counted
      const conversion = this.model.after(shown, did, counted)
      if (conversion) found.push({ minute: minute + conversion.after, person, advertiser, tracker, valueMicros: conversion.valueMicros })
      if (!shown.bot) this.drawnOwn(counted, did, person, minute, found)
    }
    return found
  }

  /** What somebody does by themselves while what they saw or clicked is inside its window. */
  private drawnOwn(counted: TrackerRules & Counted, did: number, person: number, minute: number, into: Pending[]): void {
    const { advertiser, tracker, clickHours, viewHours } = counted
    const hours = isClick(did) ? clickHours : (did & DID.viewable) !== 0 ? (viewHours ?? 0) : 0
    const until = minute + Math.min(LONGEST_CAP_MINUTES, hours * 60)
    if (until === minute) return
    const word = person * PERSON_WORDS
    const one = { person, profile: profileOf(this.words[word + 1]), country: POSTAL_COUNTRY[postalOf(this.words[word])] }
    for (let block = Math.floor(minute / BLOCK_MINUTES); block * BLOCK_MINUTES < until; block++) {
      const conversion = this.model.byThemselves(one, block, counted)
      if (conversion && conversion.minute > minute && conversion.minute < until)
        into.push({ ...conversion, person, advertiser, tracker, own: true })
    }
  }

  /** Keeps what follows an impression until it happens. */
  expect(shown: Shown, did: number, person: number, minute: number): void {
    if (this.trackersOf.size === 0) return
    for (const one of this.drawn(shown, did, person, minute)) this.note(one)
  }

  /**
   * Conversions of an hour, each with what earned it and what helped; those that nothing of ours earned are nobody's. What was told of
   * impressions comes first: a click that was told earns what is told after it.
   */
  land(hour: number, exposures: ExposureBook, input: ToldInput = NOTHING_TOLD): { rows: EventRow[]; told: ToldOutcome[] } {
    const events = this.tell(input)
    const told: ToldOutcome[] = []
    const due = [...(this.byHour.get(hour) ?? []), ...input.conversions.map((one): Pending => ({ ...one, minute: hour * 60 }))]
    this.byHour.delete(hour)
    due.sort(
      (a, b) =>
        a.minute - b.minute ||
        a.person - b.person ||
        a.tracker - b.tracker ||
        Number(a.own ?? false) - Number(b.own ?? false) ||
        a.valueMicros - b.valueMicros ||
        (a.told ?? 0) - (b.told ?? 0)
    )
    const landed = due.flatMap((one, n) => {
      // Each impression noted what its person does anyhow.
      const before = n > 0 ? due[n - 1] : null
      if (one.own && before?.own && before.minute === one.minute && before.person === one.person && before.tracker === one.tracker)
        return []
      const tracker = this.trackersOf.get(one.advertiser)?.find((other) => other.tracker === one.tracker)
      const earned = tracker ? attribute(this.touches(one, exposures), one.minute, tracker) : null
      if (one.told !== undefined) told.push({ told: one.told, by: earned?.by ?? null })
      if (!earned) return []
      const row = ({ line, ad, hour: touchHour, index, path, device }: OwnTouch, by: number, value: number): EventRow => ({
        line,
        ad,
        tracker: one.tracker,
        hour: touchHour,
        index,
        value: Math.min(MOST_VALUE, value),
        path,
        device,
        by,
        minute: one.minute % 60
      })
      return [row(earned.touch, earned.by === 'click' ? 0 : 1, one.valueMicros), ...earned.assists.map((touch) => row(touch, 2, 0))]
    })
    return { rows: [...events, ...landed], told }
  }

  /** Takes what was told of impressions; a row each for what neither the log nor anybody said before. */
  private tell({ events }: ToldInput): EventRow[] {
    return events.flatMap((one) => {
      const { did, by } = TOLD_EVENTS[one.event]
      const isNew = this.deeds.note(one)
      if (!isNew || (one.did & did) !== 0) return []
      const { line, ad, hour, index, path, device } = one
      return [{ line, ad, tracker: 0, hour, index, value: 0, path, device, by, minute: 0 }]
    })
  }

  /** All that a person saw of an advertiser in 30 days, oldest first. */
  private touches({ person, advertiser, minute: now }: Pending, exposures: ExposureBook): OwnTouch[] {
    return (this.linesOf.get(advertiser) ?? [])
      .flatMap((line) =>
        exposures.impressions(EXPOSED.line(line), person).map(({ minute, did: logged, ad, path, device, index }): OwnTouch => {
          const hour = Math.floor(minute / 60)
          const did = logged | this.deeds.of({ hour, index })
          return { line, ad, path, device, index, minute, hour, clicked: isClick(did), viewable: (did & DID.viewable) !== 0 }
        })
      )
      .filter(({ minute }) => minute > now - LONGEST_CAP_MINUTES)
      .sort((a, b) => a.minute - b.minute || a.line - b.line || a.index - b.index)
  }
}
