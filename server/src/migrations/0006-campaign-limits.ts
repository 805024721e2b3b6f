export const name = '0006-campaign-limits'

/** Limits of a campaign beside its day and its total, and its caps: documents, since nothing is asked of them by query. */
export const statements = ['ALTER TABLE campaign ADD COLUMN IF NOT EXISTS longer_limits LONGTEXT NULL, ADD COLUMN IF NOT EXISTS caps LONGTEXT NULL']
