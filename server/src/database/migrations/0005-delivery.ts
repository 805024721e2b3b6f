export const name = '0005-delivery'

const COUNTS = ['views', 'visits', 'stays', 'pages', 'conversions', 'view_conversions', 'assists'].map(
  (column) => `ADD COLUMN IF NOT EXISTS ${column} INT NOT NULL DEFAULT 0`
)
const SUMS = ['value_micros', 'data_micros', 'expected_views', 'expected_visits', 'expected_conversions', 'predicted'].map(
  (column) => `ADD COLUMN IF NOT EXISTS ${column} BIGINT NOT NULL DEFAULT 0`
)

/** What an impression brings beside a click, what was expected of it, and what happened later. */
export const statements = [
  ...['line_hour', 'line_day'].map((table) => `ALTER TABLE ${table} ${[...COUNTS, ...SUMS].join(', ')}`),
  `ALTER TABLE delivery_hour ADD COLUMN IF NOT EXISTS format TINYINT UNSIGNED NOT NULL DEFAULT 1, ADD COLUMN IF NOT EXISTS event_n INT NOT NULL DEFAULT 0,
    ADD COLUMN IF NOT EXISTS event_crc32 INT UNSIGNED NOT NULL DEFAULT 0, ADD COLUMN IF NOT EXISTS events LONGBLOB NULL`,
  `CREATE TABLE IF NOT EXISTS short_hour (
    line_id INT NOT NULL, hour INT NOT NULL, bin TINYINT UNSIGNED NOT NULL, n INT NOT NULL, PRIMARY KEY (line_id, hour, bin), FOREIGN KEY (line_id) REFERENCES line (id)
  ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4`,
  'ALTER TABLE outcome_hour MODIFY COLUMN outcome VARCHAR(24) NOT NULL',
  'ALTER TABLE market_state ADD COLUMN IF NOT EXISTS pause_ms INT NOT NULL DEFAULT 0',
  'ALTER TABLE line_state ADD COLUMN IF NOT EXISTS supply_shown DOUBLE NOT NULL DEFAULT 0, ADD COLUMN IF NOT EXISTS correction INT NOT NULL DEFAULT 1000',
  'ALTER TABLE ad MODIFY COLUMN creative_id INT NULL, ADD COLUMN IF NOT EXISTS made_creative_id INT NULL',
  'ALTER TABLE ad ADD CONSTRAINT ad_of_parts FOREIGN KEY IF NOT EXISTS (made_creative_id) REFERENCES made_creative (id)'
]
