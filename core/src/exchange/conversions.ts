import { attribute, type Responses, type Shown, type Touch } from '../response/index.js'
import { DID } from '../response/index.js'
import { LONGEST_CAP_MINUTES } from './caps.js'
import { EXPOSED, type ExposureBook } from './exposures.js'
import type { EventRow } from './log.js'
import type { PublicationRules, TrackerRules } from './rules.js'

/** A conversion that has been drawn and not yet happened. */
export interface Pending {
  minute: number
  person: number
  tracker: number
  advertiser: number
  valueMicros: number
}

interface OwnTouch extends Touch {
  line: number
  ad: number
  path: number
  device: number
}

/** What a conversion is said to be worth, micros: the mean over the trackers that say; 0 when none does. */
export function worthOf(trackers: readonly TrackerRules[]): number {
  const said = trackers.flatMap((tracker) => tracker.valueMicros ?? [])
  return said.length > 0 ? said.reduce((sum, value) => sum + value, 0) / said.length : 0
}

/** Conversions to come, and what earned them when they happen. */
export class Conversions {
  private readonly byHour = new Map<number, Pending[]>()
  private readonly advertiserOf: ReadonlyMap<number, number>
  private readonly linesOf = new Map<number, number[]>()
  private readonly trackersOf = new Map<number, TrackerRules[]>()

  constructor(
    private readonly responses: Responses,
    { owners = [], trackers = [] }: PublicationRules,
    pending: readonly Pending[]
  ) {
    this.advertiserOf = new Map(owners.map(({ line, advertiser }) => [line, advertiser]))
    for (const { line, advertiser } of owners) this.linesOf.set(advertiser, [...(this.linesOf.get(advertiser) ?? []), line])
    for (const tracker of trackers) this.trackersOf.set(tracker.advertiser, [...(this.trackersOf.get(tracker.advertiser) ?? []), tracker])
    for (const one of pending) this.note(one)
  }

  /** What a conversion of a line's advertiser is said to be worth, micros. */
  worth(line: number): number {
    return worthOf(this.trackersOf.get(this.advertiserOf.get(line) ?? -1) ?? [])
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
    return (this.trackersOf.get(advertiser) ?? []).flatMap((tracker) => {
      const conversion = this.responses.conversion(shown, did, tracker)
      return conversion
        ? [{ minute: minute + conversion.after, person, advertiser, tracker: tracker.tracker, valueMicros: conversion.valueMicros }]
        : []
    })
  }

  /** Keeps what follows an impression until it happens. */
  expect(shown: Shown, did: number, person: number, minute: number): void {
    if (this.trackersOf.size === 0) return
    for (const one of this.drawn(shown, did, person, minute)) this.note(one)
  }

  /** Conversions of an hour, each with what earned it and what helped; those that nothing of ours earned are nobody's. */
  land(hour: number, exposures: ExposureBook): EventRow[] {
    const due = this.byHour.get(hour) ?? []
    this.byHour.delete(hour)
    due.sort((a, b) => a.minute - b.minute || a.person - b.person || a.tracker - b.tracker || a.valueMicros - b.valueMicros)
    return due.flatMap((one) => {
      const tracker = this.trackersOf.get(one.advertiser)?.find((other) => other.tracker === one.tracker)
      if (!tracker) return []
      const earned = attribute(this.touches(one, exposures), one.minute, tracker)
      if (!earned) return []
      const row = ({ line, ad, hour: touchHour, index, path, device }: OwnTouch, by: number, value: number): EventRow => ({
        line,
        ad,
        tracker: one.tracker,
        hour: touchHour,
        index,
        value,
        path,
        device,
        by,
        minute: one.minute % 60
      })
      return [row(earned.touch, earned.by === 'click' ? 0 : 1, one.valueMicros), ...earned.assists.map((touch) => row(touch, 2, 0))]
    })
  }

  /** All that a person saw of an advertiser in 30 days, oldest first. */
  private touches({ person, advertiser, minute: now }: Pending, exposures: ExposureBook): OwnTouch[] {
    return (this.linesOf.get(advertiser) ?? [])
      .flatMap((line) =>
        exposures.impressions(EXPOSED.line(line), person).map(({ minute, did, ad, path, device, index }): OwnTouch => ({
          line,
          ad,
          path,
          device,
          index,
          minute,
          hour: Math.floor(minute / 60),
          clicked: (did & (DID.clicked | DID.visited)) !== 0,
          viewable: (did & DID.viewable) !== 0
        }))
      )
      .filter(({ minute }) => minute > now - LONGEST_CAP_MINUTES)
      .sort((a, b) => a.minute - b.minute || a.line - b.line || a.index - b.index)
  }
}
