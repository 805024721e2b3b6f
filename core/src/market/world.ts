import { hashColumns } from '../random/index.js'
import { makeInventory, type Inventory } from './inventory.js'
import { fillPeople, makeProfiles, peopleBytes, peopleOver, type People, type Profiles } from './people.js'

/** Size and seed of a stand-in market. */
export interface WorldSize {
  seed: number
  people: number
  /** The tape holds the people with hash(seed, 'sample', person) mod `sample` = 0. */
  sample: number
}

/** The market of the demo. */
export const FULL: WorldSize = { seed: 20260302, people: 2_000_000, sample: 28 }

/** A tenth of it, for tests: one person in three on the tape. */
export const TENTH: WorldSize = { seed: 20260302, people: 200_000, sample: 3 }

export interface World extends WorldSize {
  inventory: Inventory
  profiles: Profiles
  persons: People
}

/** Makes a world; its people go into `buffer` (of `peopleBytes`) when one is given, else into a new one. */
export function makeWorld(size: WorldSize, buffer: ArrayBufferLike = new ArrayBuffer(peopleBytes(size.people))): World {
  const persons = peopleOver(buffer, size.people)
  fillPeople(size.seed, persons)
  return { ...size, ...makeGiven(size.seed), persons }
}

/** What of a world follows from its seed alone. */
export type Given = Pick<World, 'inventory' | 'profiles'>
export const makeGiven = (seed: number): Given => ({ inventory: makeInventory(seed), profiles: makeProfiles(seed) })

/** The same world over people that another thread has already filled in. @param given as another thread made it */
export function openWorld(size: WorldSize, buffer: ArrayBufferLike, given: Given = makeGiven(size.seed)): World {
  return { ...size, ...given, persons: peopleOver(buffer, size.people) }
}

/** Checksum of everything a world holds. */
export function worldHash(world: World): string {
  const { persons, inventory, profiles } = world
  const { pages } = inventory
  const text = Uint16Array.from(JSON.stringify([inventory.publishers, inventory.properties, inventory.placements]), (letter) =>
    letter.charCodeAt(0)
  )
  return hashColumns([
    persons.words,
    profiles.sets,
    inventory.floors,
    inventory.sourceWeights,
    inventory.direct,
    pages.category,
    pages.keywords,
    pages.genre,
    pages.podcast,
    pages.rating,
    text
  ])
}
