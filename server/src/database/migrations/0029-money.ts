export const name = '0029-money'

/**
 * Payments in and back, with what the payment service said; what an organisation agreed to be charged for a day, and when it is warned;
 * limits of advertisers, and their margins from an hour on.
 */
export const statements = [
  `CREATE TABLE IF NOT EXISTS payment (
    id INT PRIMARY KEY AUTO_INCREMENT, organisation_id INT NOT NULL, reference VARCHAR(40) NOT NULL, kind VARCHAR(10) NOT NULL,
    amount_micros BIGINT NOT NULL, state VARCHAR(10) NOT NULL, says VARCHAR(200) NOT NULL DEFAULT '', of_day INT NULL, refund_of INT NULL,
    last4 VARCHAR(4) NULL, card VARCHAR(60) NULL, asked_hour INT NOT NULL, asked_at INT NOT NULL, settled_hour INT NULL, asked_by INT NULL,
    UNIQUE KEY payment_reference (reference), UNIQUE KEY payment_day (organisation_id, of_day), KEY payment_state (state, id),
    KEY payment_refund (refund_of)
  ) ENGINE=InnoDB`,
  'ALTER TABLE ledger_entry ADD COLUMN IF NOT EXISTS payment_id INT NULL',
  'CREATE UNIQUE INDEX IF NOT EXISTS ledger_payment ON ledger_entry (payment_id, amount_micros)',
  'CREATE INDEX IF NOT EXISTS ledger_hours ON ledger_entry (organisation_id, hour)',
  `ALTER TABLE organisation ADD COLUMN IF NOT EXISTS low_days INT NOT NULL DEFAULT 3, ADD COLUMN IF NOT EXISTS charge_card VARCHAR(60) NULL,
    ADD COLUMN IF NOT EXISTS charge_last4 VARCHAR(4) NULL, ADD COLUMN IF NOT EXISTS charge_most_micros BIGINT NULL,
    ADD COLUMN IF NOT EXISTS charge_from_day INT NULL`,
  'ALTER TABLE advertiser ADD COLUMN IF NOT EXISTS limit_micros BIGINT NULL',
  `CREATE TABLE IF NOT EXISTS advertiser_margin (
    advertiser_id INT NOT NULL, from_hour INT NOT NULL, ppm INT NOT NULL, PRIMARY KEY (advertiser_id, from_hour)
  ) ENGINE=InnoDB`
]
