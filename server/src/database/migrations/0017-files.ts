export const name = '0017-files'

/**
 * Files of a library, by the hash of what they hold, and uploads that are under way. Pictures that were rows move into the store when the
 * server starts (`files/moving.ts`): until then they keep their bytes.
 */
export const statements = [
  `CREATE TABLE IF NOT EXISTS stored_file (
    id INT AUTO_INCREMENT PRIMARY KEY,
    advertiser_id INT NOT NULL,
    name VARCHAR(190) NOT NULL,
    sha256 CHAR(64) NOT NULL,
    bytes INT NOT NULL,
    medium VARCHAR(20) NOT NULL,
    facts LONGTEXT NOT NULL,
    alt_text VARCHAR(300) NOT NULL DEFAULT '',
    tags LONGTEXT NOT NULL,
    retired TINYINT(1) NOT NULL DEFAULT 0,
    made_from INT NULL,
    made_how VARCHAR(500) NULL,
    added_hour INT NOT NULL,
    version INT NOT NULL DEFAULT 1,
    UNIQUE KEY file_content (advertiser_id, sha256),
    KEY file_hash (sha256),
    CONSTRAINT file_advertiser FOREIGN KEY (advertiser_id) REFERENCES advertiser (id),
    CONSTRAINT file_made_from FOREIGN KEY (made_from) REFERENCES stored_file (id)
  ) ENGINE=InnoDB`,
  `CREATE TABLE IF NOT EXISTS upload (
    id INT AUTO_INCREMENT PRIMARY KEY,
    advertiser_id INT NOT NULL,
    user_id INT NOT NULL,
    name VARCHAR(190) NOT NULL,
    bytes INT NOT NULL,
    begun DATETIME NOT NULL,
    KEY upload_begun (begun),
    CONSTRAINT upload_advertiser FOREIGN KEY (advertiser_id) REFERENCES advertiser (id)
  ) ENGINE=InnoDB`,
  'ALTER TABLE creative MODIFY data MEDIUMBLOB NULL'
]
