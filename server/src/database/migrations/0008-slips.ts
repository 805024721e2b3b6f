export const name = '0008-slips'

/** Where a line was copied from, its tags, whether it is a template; slips of edits that go live together. */
export const statements = [
  'ALTER TABLE line ADD COLUMN IF NOT EXISTS copied_from INT NULL, ADD COLUMN IF NOT EXISTS tags LONGTEXT NULL, ADD COLUMN IF NOT EXISTS template BOOLEAN NOT NULL DEFAULT FALSE',
  `CREATE TABLE IF NOT EXISTS slip (
    id INT PRIMARY KEY AUTO_INCREMENT, name VARCHAR(120) NOT NULL, items LONGTEXT NOT NULL, state VARCHAR(12) NOT NULL, revisions LONGTEXT NULL, live_hour INT NULL,
    made_by INT NULL, made_at INT UNSIGNED NOT NULL, INDEX (state), FOREIGN KEY (made_by) REFERENCES user (id)
  ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4`
]
