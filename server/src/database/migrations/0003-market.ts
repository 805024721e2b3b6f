export const name = '0003-market'

export const statements = [
  `CREATE TABLE IF NOT EXISTS market_state (
    id INT PRIMARY KEY, hour INT NOT NULL, publication_id INT NOT NULL, target_hour INT NULL, seed INT NOT NULL, people INT NOT NULL, sample INT NOT NULL,
    FOREIGN KEY (publication_id) REFERENCES publication (id)
  ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4`,
  `CREATE TABLE IF NOT EXISTS delivery_hour (
    hour INT PRIMARY KEY, publication_id INT NOT NULL, opportunities INT NOT NULL, n INT NOT NULL, crc32 INT UNSIGNED NOT NULL, data LONGBLOB NOT NULL,
    FOREIGN KEY (publication_id) REFERENCES publication (id)
  ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4`,
  `CREATE TABLE IF NOT EXISTS line_hour (
    line_id INT NOT NULL, hour INT NOT NULL, ad_id INT NOT NULL, device TINYINT UNSIGNED NOT NULL, wins INT NOT NULL, viewable INT NOT NULL, clicks INT NOT NULL, spend_micros BIGINT NOT NULL,
    PRIMARY KEY (line_id, hour, ad_id, device), FOREIGN KEY (line_id) REFERENCES line (id), FOREIGN KEY (ad_id) REFERENCES ad (id)
  ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4`,
  `CREATE TABLE IF NOT EXISTS line_day (
    line_id INT NOT NULL, day INT NOT NULL, placement INT NOT NULL, ad_id INT NOT NULL, wins INT NOT NULL, viewable INT NOT NULL, clicks INT NOT NULL, spend_micros BIGINT NOT NULL,
    PRIMARY KEY (line_id, day, placement, ad_id), FOREIGN KEY (line_id) REFERENCES line (id), FOREIGN KEY (ad_id) REFERENCES ad (id)
  ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4`,
  `CREATE TABLE IF NOT EXISTS outcome_hour (
    line_id INT NOT NULL, hour INT NOT NULL, outcome VARCHAR(16) NOT NULL, n INT NOT NULL,
    PRIMARY KEY (line_id, hour, outcome), FOREIGN KEY (line_id) REFERENCES line (id)
  ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4`,
  `CREATE TABLE IF NOT EXISTS line_state (
    line_id INT PRIMARY KEY, supply_micros BIGINT NOT NULL, FOREIGN KEY (line_id) REFERENCES line (id)
  ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4`,
  `CREATE TABLE IF NOT EXISTS ledger_entry (
    id INT PRIMARY KEY AUTO_INCREMENT, organisation_id INT NOT NULL, kind VARCHAR(16) NOT NULL, hour INT NOT NULL, advertiser_id INT NULL, amount_micros BIGINT NOT NULL,
    note VARCHAR(190) NOT NULL DEFAULT '', made_by INT NULL, UNIQUE KEY one_spend_an_hour (kind, hour, advertiser_id),
    FOREIGN KEY (organisation_id) REFERENCES organisation (id), FOREIGN KEY (advertiser_id) REFERENCES advertiser (id), FOREIGN KEY (made_by) REFERENCES user (id)
  ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4`
]
