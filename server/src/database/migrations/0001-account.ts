export const name = '0001-account'

export const statements = [
  `CREATE TABLE IF NOT EXISTS organisation (
    id INT PRIMARY KEY AUTO_INCREMENT, name VARCHAR(120) NOT NULL, currency CHAR(3) NOT NULL, zone VARCHAR(64) NOT NULL
  ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4`,
  `CREATE TABLE IF NOT EXISTS user (
    id INT PRIMARY KEY AUTO_INCREMENT, organisation_id INT NOT NULL, name VARCHAR(120) NOT NULL, email VARCHAR(190) NOT NULL,
    role VARCHAR(16) NOT NULL, password_hash VARCHAR(200) NOT NULL, all_advertisers BOOLEAN NOT NULL,
    UNIQUE KEY user_email (email), FOREIGN KEY (organisation_id) REFERENCES organisation (id)
  ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4`,
  `CREATE TABLE IF NOT EXISTS advertiser (
    id INT PRIMARY KEY AUTO_INCREMENT, organisation_id INT NOT NULL, name VARCHAR(120) NOT NULL, domain VARCHAR(190) NOT NULL, zone VARCHAR(64) NOT NULL,
    version INT NOT NULL DEFAULT 1, FOREIGN KEY (organisation_id) REFERENCES organisation (id)
  ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4`,
  `CREATE TABLE IF NOT EXISTS user_advertiser (
    user_id INT NOT NULL, advertiser_id INT NOT NULL, PRIMARY KEY (user_id, advertiser_id),
    FOREIGN KEY (user_id) REFERENCES user (id), FOREIGN KEY (advertiser_id) REFERENCES advertiser (id)
  ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4`,
  `CREATE TABLE IF NOT EXISTS session (
    token_hash CHAR(64) PRIMARY KEY, user_id INT NOT NULL, expires_at INT UNSIGNED NOT NULL, FOREIGN KEY (user_id) REFERENCES user (id)
  ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4`,
  `CREATE TABLE IF NOT EXISTS audit_entry (
    id INT PRIMARY KEY AUTO_INCREMENT, user_id INT NULL, at INT UNSIGNED NOT NULL, action VARCHAR(60) NOT NULL, object VARCHAR(40) NOT NULL,
    object_id INT NOT NULL, advertiser_id INT NULL, was LONGTEXT NULL, became LONGTEXT NULL,
    FOREIGN KEY (user_id) REFERENCES user (id), FOREIGN KEY (advertiser_id) REFERENCES advertiser (id)
  ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4`,
  `CREATE TABLE IF NOT EXISTS setup_step (name VARCHAR(40) PRIMARY KEY) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4`,
  `CREATE TABLE IF NOT EXISTS idempotent_answer (
    user_id INT NOT NULL, token VARCHAR(80) NOT NULL, route VARCHAR(160) NOT NULL, answer LONGTEXT NOT NULL, at INT UNSIGNED NOT NULL,
    PRIMARY KEY (user_id, token), FOREIGN KEY (user_id) REFERENCES user (id)
  ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4`
]
