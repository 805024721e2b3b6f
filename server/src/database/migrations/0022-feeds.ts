export const name = '0022-feeds'

/** Product feeds, their items, and ads that are stopped for what became of an item. Times in seconds since 1970. */
export const statements = [
  `CREATE TABLE IF NOT EXISTS feed (
    id INT PRIMARY KEY AUTO_INCREMENT, advertiser_id INT NOT NULL, draft LONGTEXT NOT NULL, version INT NOT NULL DEFAULT 1,
    found LONGTEXT NULL, read_hour INT NULL, read_at INT UNSIGNED NULL, problem VARCHAR(1000) NULL,
    KEY feed_advertiser (advertiser_id), CONSTRAINT feed_advertiser FOREIGN KEY (advertiser_id) REFERENCES advertiser (id)
  ) ENGINE=InnoDB`,
  `CREATE TABLE IF NOT EXISTS feed_item (
    id INT PRIMARY KEY AUTO_INCREMENT, feed_id INT NOT NULL, item_key VARCHAR(190) COLLATE utf8mb4_bin NOT NULL, nth INT NOT NULL,
    item LONGTEXT NOT NULL, state VARCHAR(12) NOT NULL, since_hour INT NOT NULL, made_creative_id INT NULL, made_as LONGTEXT NULL,
    UNIQUE KEY feed_item_key (feed_id, item_key), KEY feed_item_made (made_creative_id),
    CONSTRAINT feed_item_feed FOREIGN KEY (feed_id) REFERENCES feed (id) ON DELETE CASCADE
  ) ENGINE=InnoDB`,
  'ALTER TABLE made_creative ADD COLUMN IF NOT EXISTS feed_item_id INT NULL, ADD KEY IF NOT EXISTS made_creative_feed_item (feed_item_id)',
  `ALTER TABLE ad ADD COLUMN IF NOT EXISTS stopped VARCHAR(300) NULL`,
  `ALTER TABLE publication ADD COLUMN IF NOT EXISTS stopped_ads LONGTEXT NULL`
]
