export const name = '0014-new-people'

/**
 * How many wins showed an ad to somebody whom the line had not reached in the 30 days before: what aims at new people learn from.
 * `npm run rebuild` fills it from the log; until then a line is believed to have reached new people as the mean does.
 */
export const statements = ['line_hour', 'line_day'].map(
  (table) => `ALTER TABLE ${table} ADD COLUMN IF NOT EXISTS firsts BIGINT NOT NULL DEFAULT 0`
)
