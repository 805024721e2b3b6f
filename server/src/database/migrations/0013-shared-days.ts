export const name = '0013-shared-days'

/** What a line has had of its campaign's day: spent, seen, and due; the next hour's share follows from it. */
export const statements = ['ALTER TABLE line_state ADD COLUMN IF NOT EXISTS so_far LONGTEXT NULL']
