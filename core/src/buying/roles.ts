/** Who may do what. A right is asked of every route; which advertisers a user sees is asked besides. */
export const ROLES = ['reader', 'assistant', 'trader', 'finance', 'admin'] as const
export type Role = (typeof ROLES)[number]

/** `read` all that is theirs; `draft` and forecast; put `live` and steer; run the market's `clock`, which spends for all who are live. */
export const RIGHTS = ['read', 'draft', 'live', 'clock'] as const
export type Right = (typeof RIGHTS)[number]

const RIGHTS_OF: Readonly<Record<Role, readonly Right[]>> = {
  reader: ['read'],
  assistant: ['read', 'draft'],
  trader: ['read', 'draft', 'live', 'clock'],
  finance: ['read'],
  admin: ['read', 'draft', 'live', 'clock']
}

export function hasRight(role: Role, right: Right): boolean {
  return RIGHTS_OF[role].includes(right)
}
