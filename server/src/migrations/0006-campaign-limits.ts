export const name = '0006-campaign-limits'

/** Limits of a campaign beside its day and its total, and its caps: documents, since nothing is asked of them by query. Shops of an advertiser. */
export const statements = [
  'ALTER TABLE campaign ADD COLUMN IF NOT EXISTS longer_limits LONGTEXT NULL, ADD COLUMN IF NOT EXISTS caps LONGTEXT NULL',
  `CREATE TABLE IF NOT EXISTS shop (
    id INT PRIMARY KEY AUTO_INCREMENT, advertiser_id INT NOT NULL, name VARCHAR(120) NOT NULL, place VARCHAR(120) NOT NULL, FOREIGN KEY (advertiser_id) REFERENCES advertiser (id)
  ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4`
]
