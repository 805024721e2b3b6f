export const name = '0026-feeds-settled'

/** Whether ads of a feed may differ yet from what its items say, and which items are wanted: told when a feed is read. */
export const statements = [
  'ALTER TABLE feed ADD COLUMN IF NOT EXISTS unsettled BOOLEAN NOT NULL DEFAULT TRUE',
  `ALTER TABLE feed_item ADD COLUMN IF NOT EXISTS wanted BOOLEAN NOT NULL DEFAULT FALSE,
    ADD KEY IF NOT EXISTS feed_item_order (feed_id, nth)`
]
