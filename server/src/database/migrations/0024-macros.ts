import { CLICK_MACRO } from '@tin-harbor/core/creative'

export const name = '0024-macros'

/** Macros are written in one form: what was `{click_id}` is told anew wherever a link is kept; and advertisers have a tail. */
export const statements = [
  "ALTER TABLE advertiser ADD COLUMN IF NOT EXISTS link_tail VARCHAR(500) NOT NULL DEFAULT ''",
  ...[
    ['campaign', 'link_tail'],
    ['line', 'draft'],
    ['line_revision', 'draft'],
    ['offer', 'terms']
  ].map(
    ([table, column]) =>
      `UPDATE ${table} SET ${column} = REPLACE(${column}, '{click_id}', '${CLICK_MACRO}') WHERE ${column} LIKE '%{click_id}%'`
  )
]
