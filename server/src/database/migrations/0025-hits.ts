export const name = '0025-hits'

/** What players and pages told of impressions and previews, each once; and the keys that their ids are signed with. Times in seconds. */
export const statements = [
  `CREATE TABLE IF NOT EXISTS hit_key (
    id INT PRIMARY KEY AUTO_INCREMENT, secret CHAR(64) NOT NULL, made_at INT UNSIGNED NOT NULL
  ) ENGINE=InnoDB`,
  `CREATE TABLE IF NOT EXISTS hit (
    id BIGINT PRIMARY KEY AUTO_INCREMENT, subject VARCHAR(60) COLLATE ascii_bin NOT NULL, event VARCHAR(20) COLLATE ascii_bin NOT NULL,
    ad_id INT NULL, hour INT NULL, place INT NULL, told_at INT UNSIGNED NOT NULL, counts BOOLEAN NOT NULL,
    UNIQUE KEY hit_once (subject, event), KEY hit_ad (ad_id)
  ) ENGINE=InnoDB`
]
