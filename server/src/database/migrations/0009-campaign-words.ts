export const name = '0009-campaign-words'

/** What is appended to every landing link of a campaign, and its note for the reviewer. */
export const statements = [
  "ALTER TABLE campaign ADD COLUMN IF NOT EXISTS link_tail VARCHAR(500) NOT NULL DEFAULT '', ADD COLUMN IF NOT EXISTS note VARCHAR(2000) NOT NULL DEFAULT ''"
]
