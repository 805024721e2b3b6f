import { randomBytes } from 'node:crypto'
import { QueryTypes, type Sequelize } from 'sequelize'

export const name = '0027-trackers'

/**
 * Where conversions are told, and which pages count; what was told, each once; what of it entered which market hour; the offer of a
 * campaign and where people land whose ad, line and offer say nothing.
 */
export const statements = [
  `ALTER TABLE tracker ADD COLUMN IF NOT EXISTS path_key VARCHAR(20) COLLATE ascii_bin NULL,
    ADD COLUMN IF NOT EXISTS secret CHAR(64) NULL, ADD COLUMN IF NOT EXISTS pages LONGTEXT NULL,
    ADD UNIQUE KEY IF NOT EXISTS tracker_path (path_key)`,
  `ALTER TABLE hit ADD COLUMN IF NOT EXISTS entered_hour INT NULL,
    ADD KEY IF NOT EXISTS hit_to_enter (counts, entered_hour, hour)`,
  `CREATE TABLE IF NOT EXISTS told_conversion (
    id INT PRIMARY KEY AUTO_INCREMENT, told CHAR(36) COLLATE ascii_bin NOT NULL, tracker_id INT NOT NULL, how VARCHAR(10) NOT NULL,
    outcome VARCHAR(20) NOT NULL, says VARCHAR(300) NOT NULL DEFAULT '', term VARCHAR(20) NULL, earned_by VARCHAR(10) NULL,
    click VARCHAR(200) NOT NULL, subject VARCHAR(60) COLLATE ascii_bin NULL, hour INT NULL, place INT NULL, line_id INT NULL,
    ad_id INT NULL, person INT NULL, transaction_id VARCHAR(100) NOT NULL, once VARCHAR(140) COLLATE utf8mb4_bin NULL,
    value_micros BIGINT NOT NULL, page VARCHAR(1000) NOT NULL, told_at INT UNSIGNED NOT NULL, entered_hour INT NULL,
    UNIQUE KEY told_once (told), UNIQUE KEY counted_once (tracker_id, once), KEY told_waits (outcome, id), KEY told_ad (ad_id)
  ) ENGINE=InnoDB`,
  'ALTER TABLE campaign ADD COLUMN IF NOT EXISTS offer_id INT NULL, ADD COLUMN IF NOT EXISTS landings LONGTEXT NULL'
]

/** Trackers that were there before are given their addresses and secrets. */
export async function run(sequelize: Sequelize): Promise<void> {
  const rows = await sequelize.query<{ id: number }>('SELECT id FROM tracker WHERE path_key IS NULL', { type: QueryTypes.SELECT })
  for (const { id } of rows)
    await sequelize.query('UPDATE tracker SET path_key = ?, secret = ? WHERE id = ?', {
      replacements: [randomBytes(9).toString('hex'), randomBytes(32).toString('hex'), id]
    })
}
