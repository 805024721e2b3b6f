export const name = '0019-ads-of-a-line'

/** What an ad has of its own, its weight among it, is part of its line's draft, so that it is forecast, staged and put live with it. */
export const statements = ['ALTER TABLE ad DROP COLUMN IF EXISTS weight']
