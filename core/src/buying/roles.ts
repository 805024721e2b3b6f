/** Who may do what. A right is asked of every route; which advertisers a user sees is asked besides. */
export const ROLES = ['reader', 'assistant', 'trader', 'finance', 'admin'] as const
export type Role = (typeof ROLES)[number]

/** What may be done, and who may: one entry a right. */
export const RIGHTS = {
  /** Sees all that is theirs. */
  read: ROLES,
  /** Drafts, and asks for forecasts. */
  draft: ['assistant', 'trader', 'admin'],
  /** Puts live, and steers. */
  live: ['trader', 'admin'],
  /** Runs the market's clock, which spends for all who are live. */
  clock: ['trader', 'admin'],
  /** Reads the ledger, entry by entry, and moves money. Everybody sees the balance. */
  money: ['finance', 'admin'],
  /** Says who may what, and sees what everybody did. */
  team: ['admin']
} as const satisfies Record<string, readonly Role[]>
export type Right = keyof typeof RIGHTS

export function hasRight(role: Role, right: Right): boolean {
  return (RIGHTS[right] as readonly Role[]).includes(role)
}
