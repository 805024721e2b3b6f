export const name = '0012-event-kinds'

/**
 * Trackers say what kind of event they count and of which subject; trackers from before count what they most likely did: something
 * bought where it is worth much, something tried where little. What was expected of wins is told in visitors who stay, and of those how
 * many convert as the mean does, and in impressions seen: `npm run rebuild` fills them from the log.
 */
export const statements = [
  "ALTER TABLE tracker ADD COLUMN IF NOT EXISTS kind VARCHAR(16) NOT NULL DEFAULT 'purchase'",
  'ALTER TABLE tracker ADD COLUMN IF NOT EXISTS subject VARCHAR(64) NULL',
  "UPDATE tracker SET kind = 'trial' WHERE value_micros IS NOT NULL AND value_micros < 5000000",
  ...['line_hour', 'line_day'].flatMap((table) => [
    `ALTER TABLE ${table} ADD COLUMN IF NOT EXISTS expected_stays BIGINT NOT NULL DEFAULT 0`,
    `ALTER TABLE ${table} ADD COLUMN IF NOT EXISTS expected_seen BIGINT NOT NULL DEFAULT 0`,
    `ALTER TABLE ${table} CHANGE COLUMN IF EXISTS expected_conversions expected_converting BIGINT NOT NULL DEFAULT 0`
  ])
]
