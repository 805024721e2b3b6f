export const name = '0016-offers-and-hours'

/**
 * Which offer of a publisher's a deal was taken from; none where it was asked for. And the market's hour at which somebody did something;
 * none of what was done before this.
 */
export const statements = [
  'ALTER TABLE granted_deal ADD COLUMN IF NOT EXISTS offer VARCHAR(20) NULL',
  'ALTER TABLE audit_entry ADD COLUMN IF NOT EXISTS hour INT NULL'
]
