export const name = '0016-offers-taken'

/** Which offer of a publisher's a deal was taken from; none where it was asked for. */
export const statements = ['ALTER TABLE granted_deal ADD COLUMN IF NOT EXISTS offer VARCHAR(20) NULL']
