export const name = '0021-preview-links'

/** Links by which somebody without a sign-in sees the ads of a line. Times in seconds. */
export const statements = [
  `CREATE TABLE IF NOT EXISTS preview_link (
    id INT PRIMARY KEY AUTO_INCREMENT, line_id INT NOT NULL, digest CHAR(64) NOT NULL, expires_at INT UNSIGNED NOT NULL, made_by INT NULL,
    made_at INT UNSIGNED NOT NULL, revoked BOOLEAN NOT NULL DEFAULT FALSE,
    UNIQUE KEY preview_digest (digest), KEY preview_line (line_id), CONSTRAINT preview_line FOREIGN KEY (line_id) REFERENCES line (id) ON DELETE CASCADE
  ) ENGINE=InnoDB`
]
