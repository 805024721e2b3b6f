export const name = '0011-organisations'

const OWNED = ['saved_list', 'granted_deal', 'deal_request']

/**
 * Lists, deals and what was asked for belong to an organisation; the market buys for one. A session is of the password it was opened
 * with. What segments cost and who sells them was never read from its table: it is part of the market.
 */
export const statements = [
  ...OWNED.flatMap((table) => [
    `ALTER TABLE ${table} ADD COLUMN IF NOT EXISTS organisation_id INT NULL`,
    `UPDATE ${table} SET organisation_id = (SELECT MIN(id) FROM organisation) WHERE organisation_id IS NULL`,
    `ALTER TABLE ${table} MODIFY COLUMN organisation_id INT NOT NULL`,
    `ALTER TABLE ${table} ADD CONSTRAINT ${table}_of_organisation FOREIGN KEY IF NOT EXISTS (organisation_id) REFERENCES organisation (id)`
  ]),
  'ALTER TABLE market_state ADD COLUMN IF NOT EXISTS organisation_id INT NULL',
  'UPDATE market_state SET organisation_id = (SELECT MIN(id) FROM organisation) WHERE organisation_id IS NULL',
  'ALTER TABLE market_state ADD CONSTRAINT market_state_of_organisation FOREIGN KEY IF NOT EXISTS (organisation_id) REFERENCES organisation (id)',
  "ALTER TABLE session ADD COLUMN IF NOT EXISTS password_mark CHAR(16) NOT NULL DEFAULT ''",
  'DROP TABLE IF EXISTS bought_audience'
]
