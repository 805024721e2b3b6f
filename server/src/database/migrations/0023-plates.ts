export const name = '0023-plates'

/** Plates that pictures of every size are built of, and what a file of the library was built of. */
export const statements = [
  `CREATE TABLE IF NOT EXISTS plate (
    id INT PRIMARY KEY AUTO_INCREMENT, advertiser_id INT NOT NULL, draft LONGTEXT NOT NULL, version INT NOT NULL DEFAULT 1,
    KEY plate_advertiser (advertiser_id), CONSTRAINT plate_advertiser FOREIGN KEY (advertiser_id) REFERENCES advertiser (id)
  ) ENGINE=InnoDB`,
  'ALTER TABLE stored_file ADD COLUMN IF NOT EXISTS built LONGTEXT NULL'
]
