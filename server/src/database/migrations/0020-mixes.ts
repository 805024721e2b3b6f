export const name = '0020-mixes'

/** Matrices of parts, and which of them a creative was made of. */
export const statements = [
  `CREATE TABLE IF NOT EXISTS mix (
    id INT PRIMARY KEY AUTO_INCREMENT, advertiser_id INT NOT NULL, draft LONGTEXT NOT NULL, version INT NOT NULL DEFAULT 1,
    KEY mix_advertiser (advertiser_id), CONSTRAINT mix_advertiser FOREIGN KEY (advertiser_id) REFERENCES advertiser (id)
  ) ENGINE=InnoDB`,
  'ALTER TABLE made_creative ADD COLUMN IF NOT EXISTS mix_id INT NULL, ADD KEY IF NOT EXISTS made_creative_mix (mix_id)'
]
