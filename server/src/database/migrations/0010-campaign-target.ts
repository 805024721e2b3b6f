export const name = '0010-campaign-target'

/** What a campaign is judged by: a measure and a value. */
export const statements = ['ALTER TABLE campaign ADD COLUMN IF NOT EXISTS target LONGTEXT NULL']
