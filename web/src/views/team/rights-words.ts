import { ROLE_WORDS, type Role } from '@tin-harbor/core/buying'

interface Seen {
  role: Role
  allAdvertisers: boolean
  advertisers: readonly number[]
}

/** Names joined as a sentence has them. */
export function joinedNames(names: readonly string[]): string {
  if (names.length < 2) return names[0] ?? 'nobody'
  return `${names.slice(0, -1).join(', ')} and ${names[names.length - 1]}`
}

/** Advertisers by name; one that is not known by its number. */
export const namedBy = (names: ReadonlyMap<number, string>, advertisers: readonly number[]): string[] =>
  advertisers.map((id) => names.get(id) ?? `advertiser ${id}`)

/** What somebody may, as a sentence: "puts live and steers, for Nightjar and Ostler". */
export const rightsWords = ({ role, allAdvertisers, advertisers }: Seen, names: ReadonlyMap<number, string>): string =>
  `${ROLE_WORDS[role]}, for ${allAdvertisers ? 'all advertisers' : joinedNames(namedBy(names, advertisers))}`
