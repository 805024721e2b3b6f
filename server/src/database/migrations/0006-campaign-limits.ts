export const name = '0006-campaign-limits'

/**
 * Limits of a campaign beside its day and its total, and its caps: documents, since nothing is asked of them by query.
 * Shops of an advertiser, and deals that are asked for.
 */
export const statements = [
  'ALTER TABLE campaign ADD COLUMN IF NOT EXISTS longer_limits LONGTEXT NULL, ADD COLUMN IF NOT EXISTS caps LONGTEXT NULL',
  `CREATE TABLE IF NOT EXISTS shop (
    id INT PRIMARY KEY AUTO_INCREMENT, advertiser_id INT NOT NULL, name VARCHAR(120) NOT NULL, place VARCHAR(120) NOT NULL, FOREIGN KEY (advertiser_id) REFERENCES advertiser (id)
  ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4`,
  'ALTER TABLE granted_deal ADD COLUMN IF NOT EXISTS until_hour INT NULL',
  `CREATE TABLE IF NOT EXISTS deal_request (
    id INT PRIMARY KEY AUTO_INCREMENT, asked LONGTEXT NOT NULL, facts LONGTEXT NOT NULL, asked_hour INT NOT NULL, state VARCHAR(10) NOT NULL, decision LONGTEXT NULL, answered_hour INT NULL,
    deal_id INT NULL, made_by INT NULL, INDEX (state), FOREIGN KEY (deal_id) REFERENCES granted_deal (id)
  ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4`
]
