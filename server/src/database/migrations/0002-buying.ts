export const name = '0002-buying'

export const statements = [
  `CREATE TABLE IF NOT EXISTS campaign (
    id INT PRIMARY KEY AUTO_INCREMENT, advertiser_id INT NOT NULL, name VARCHAR(120) NOT NULL, goal VARCHAR(20) NOT NULL,
    start_date CHAR(10) NOT NULL, end_date CHAR(10) NULL, total_micros BIGINT NULL, daily_micros BIGINT NULL, version INT NOT NULL DEFAULT 1,
    FOREIGN KEY (advertiser_id) REFERENCES advertiser (id)
  ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4`,
  `CREATE TABLE IF NOT EXISTS line (
    id INT PRIMARY KEY AUTO_INCREMENT, campaign_id INT NOT NULL, draft LONGTEXT NOT NULL, state VARCHAR(12) NOT NULL, state_before_end VARCHAR(12) NULL,
    released BOOLEAN NOT NULL DEFAULT FALSE, revision_id INT NULL, start_hour INT NULL, end_hour INT NULL, live_from_hour INT NULL, version INT NOT NULL DEFAULT 1,
    FOREIGN KEY (campaign_id) REFERENCES campaign (id)
  ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 AUTO_INCREMENT=1001`,
  `CREATE TABLE IF NOT EXISTS line_revision (
    id INT PRIMARY KEY AUTO_INCREMENT, line_id INT NOT NULL, draft LONGTEXT NOT NULL, rules LONGTEXT NOT NULL, forecast LONGTEXT NOT NULL,
    made_by INT NULL, made_at INT UNSIGNED NOT NULL, market_hour INT NOT NULL,
    FOREIGN KEY (line_id) REFERENCES line (id), FOREIGN KEY (made_by) REFERENCES user (id)
  ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4`,
  `ALTER TABLE line ADD CONSTRAINT line_revision_in_force FOREIGN KEY IF NOT EXISTS (revision_id) REFERENCES line_revision (id)`,
  `CREATE TABLE IF NOT EXISTS publication (
    id INT PRIMARY KEY AUTO_INCREMENT, from_hour INT NOT NULL, campaigns LONGTEXT NOT NULL, made_by INT NULL, made_at INT UNSIGNED NOT NULL,
    FOREIGN KEY (made_by) REFERENCES user (id)
  ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4`,
  `CREATE TABLE IF NOT EXISTS publication_line (
    publication_id INT NOT NULL, line_revision_id INT NOT NULL, live_from_hour INT NOT NULL, PRIMARY KEY (publication_id, line_revision_id),
    FOREIGN KEY (publication_id) REFERENCES publication (id), FOREIGN KEY (line_revision_id) REFERENCES line_revision (id)
  ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4`,
  `CREATE TABLE IF NOT EXISTS creative (
    id INT PRIMARY KEY AUTO_INCREMENT, advertiser_id INT NOT NULL, name VARCHAR(190) NOT NULL, type VARCHAR(40) NOT NULL, width INT NOT NULL, height INT NOT NULL,
    bytes INT NOT NULL, slot_size VARCHAR(12) NOT NULL, sha256 CHAR(64) NOT NULL, data MEDIUMBLOB NOT NULL,
    FOREIGN KEY (advertiser_id) REFERENCES advertiser (id)
  ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4`,
  `CREATE TABLE IF NOT EXISTS ad (
    id INT PRIMARY KEY AUTO_INCREMENT, line_id INT NOT NULL, creative_id INT NOT NULL, weight INT NOT NULL DEFAULT 1, review VARCHAR(12) NOT NULL, removed BOOLEAN NOT NULL DEFAULT FALSE,
    FOREIGN KEY (line_id) REFERENCES line (id), FOREIGN KEY (creative_id) REFERENCES creative (id)
  ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4`
]
