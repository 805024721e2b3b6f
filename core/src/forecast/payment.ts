/** Payment of a first-price row. */
export const BID_ITSELF = 0xffffffff
