import { RIGHT_NAMES, formatsSchema } from '../buying/team.js'
import { ROLES } from '../buying/roles.js'
import { flag, formOf, list, maybe, number, oneOf, shape, text, type TypeOf } from './shapes.js'

/** The signed-in user, and how they like figures and days to be written; null where it is left to the browser. */
export const userView = shape({ id: number(), name: text(), email: text(), role: oneOf(ROLES), formats: maybe(formOf(formatsSchema)) })
export type UserView = TypeOf<typeof userView>

const seen = { role: oneOf(ROLES), allAdvertisers: flag(), advertisers: list(number()) }
/** Seconds since 1970 where it says when. */
export const personView = shape({
  id: number(),
  version: number(),
  name: text(),
  email: text(),
  ...seen,
  /** Whether they are here: one who left may nothing. */
  active: flag(),
  /** When they were last here; null where that is not known. */
  seenAt: maybe(number()),
  sessions: number(),
  tokens: number()
})
export type PersonView = TypeOf<typeof personView>

export const invitationView = shape({ id: number(), email: text(), ...seen, madeBy: text(), madeAt: number(), expiresAt: number() })
export type InvitationView = TypeOf<typeof invitationView>

/** Everybody of an organisation, and who is asked in. */
export const teamView = shape({
  people: list(personView),
  invitations: list(invitationView),
  advertisers: list(shape({ id: number(), name: text() })),
  /** Where what was mailed can be read, while the mail service is a stand-in; null otherwise. */
  outbox: maybe(text())
})
export type TeamView = TypeOf<typeof teamView>

/** An invitation with its link, which is told once. */
export const invitationMade = shape({ id: number(), link: text(), mailed: flag() })
export type InvitationMade = TypeOf<typeof invitationMade>

/** What an invitation says to whoever opens its link. */
export const invitationOpened = shape({ email: text(), role: oneOf(ROLES), organisation: text() })
export type InvitationOpened = TypeOf<typeof invitationOpened>

/** Where letters are read while the mail service is a stand-in. */
export const outboxView = shape({ outbox: maybe(text()) })
export type OutboxView = TypeOf<typeof outboxView>

/** Where somebody is signed in. */
export const sessionView = shape({ id: number(), madeAt: number(), seenAt: number(), agent: text(), isThis: flag() })
export type SessionView = TypeOf<typeof sessionView>

export const TOKEN_STATES = ['good', 'expired', 'revoked'] as const
/** An access token. `rights` are those that it was given, `now` those of them that its owner still has. */
export const accessTokenView = shape({
  id: number(),
  name: text(),
  rights: list(oneOf(RIGHT_NAMES)),
  now: list(oneOf(RIGHT_NAMES)),
  /** Null for all that its owner sees. */
  advertisers: maybe(list(number())),
  madeAt: number(),
  expiresAt: number(),
  usedAt: maybe(number()),
  state: oneOf(TOKEN_STATES)
})
export type AccessTokenView = TypeOf<typeof accessTokenView>

/** A token with its secret, which is told once. */
export const accessTokenMade = shape({ secret: text(), token: accessTokenView })
export type AccessTokenMade = TypeOf<typeof accessTokenMade>

/** What somebody did: when, on what, and what it changed, in the words of the pages. */
export const trailEntry = shape({
  id: number(),
  /** Seconds since 1970. */
  at: number(),
  /** Market hour; null of what was done before it was noted. */
  hour: maybe(number()),
  who: text(),
  did: text(),
  kind: text(),
  object: number(),
  name: text(),
  advertiser: maybe(text()),
  /** The slip by which it was done. */
  slip: maybe(text()),
  /** Whether fields are those of a line's draft, which pages have words for. */
  isDraft: flag(),
  changes: list(shape({ field: text(), before: text(), after: text() }))
})
export type TrailEntry = TypeOf<typeof trailEntry>

/** A page of the trail, the newest first. */
export const trailView = shape({
  entries: list(trailEntry),
  /** By which the entries before these are asked for; null where there are none. */
  next: maybe(text()),
  people: list(shape({ id: number(), name: text() }))
})
export type TrailView = TypeOf<typeof trailView>
