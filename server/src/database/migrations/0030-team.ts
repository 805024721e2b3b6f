export const name = '0030-team'

/**
 * Invitations, passwords that are set anew and access tokens, of each of which only a digest is kept; what is known of sessions; people who
 * left; formats that each likes; and answers that scripts may ask for again.
 */
export const statements = [
  `ALTER TABLE user ADD COLUMN IF NOT EXISTS active BOOLEAN NOT NULL DEFAULT TRUE, ADD COLUMN IF NOT EXISTS formats LONGTEXT NULL,
    ADD COLUMN IF NOT EXISTS version INT NOT NULL DEFAULT 1`,
  `ALTER TABLE session ADD COLUMN IF NOT EXISTS id INT NOT NULL AUTO_INCREMENT UNIQUE,
    ADD COLUMN IF NOT EXISTS made_at INT NOT NULL DEFAULT 0, ADD COLUMN IF NOT EXISTS seen_at INT NOT NULL DEFAULT 0,
    ADD COLUMN IF NOT EXISTS agent VARCHAR(200) NOT NULL DEFAULT ''`,
  `CREATE TABLE IF NOT EXISTS invitation (
    id INT PRIMARY KEY AUTO_INCREMENT, organisation_id INT NOT NULL, email VARCHAR(190) NOT NULL, role VARCHAR(12) NOT NULL,
    all_advertisers BOOLEAN NOT NULL, advertisers LONGTEXT NOT NULL, token_hash CHAR(64) NOT NULL,
    made_by INT NOT NULL, made_at INT NOT NULL, expires_at INT NOT NULL, used_at INT NULL, revoked_at INT NULL,
    UNIQUE KEY invitation_token (token_hash), KEY invitation_of (organisation_id)
  ) ENGINE=InnoDB`,
  `CREATE TABLE IF NOT EXISTS password_reset (
    token_hash CHAR(64) PRIMARY KEY, user_id INT NOT NULL, expires_at INT NOT NULL, used_at INT NULL, KEY reset_user (user_id)
  ) ENGINE=InnoDB`,
  `CREATE TABLE IF NOT EXISTS access_token (
    id INT PRIMARY KEY AUTO_INCREMENT, user_id INT NOT NULL, name VARCHAR(120) NOT NULL, token_hash CHAR(64) NOT NULL,
    rights LONGTEXT NOT NULL, advertisers LONGTEXT NULL,
    made_at INT NOT NULL, expires_at INT NOT NULL, used_at INT NULL, revoked_at INT NULL,
    UNIQUE KEY access_token_hash (token_hash), KEY access_token_user (user_id)
  ) ENGINE=InnoDB`,
  `CREATE TABLE IF NOT EXISTS kept_answer (
    who VARCHAR(24) NOT NULL, name VARCHAR(80) NOT NULL, asked CHAR(64) NOT NULL, is_done BOOLEAN NOT NULL,
    answer LONGTEXT NULL, at INT NOT NULL, PRIMARY KEY (who, name), KEY kept_at (at)
  ) ENGINE=InnoDB`,
  'CREATE INDEX IF NOT EXISTS audit_of ON audit_entry (object, object_id)',
  'ALTER TABLE audit_entry ADD COLUMN IF NOT EXISTS slip_id INT NULL'
]
