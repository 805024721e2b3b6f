export const MICROS = 1_000_000
/** Smallest step of a CPM, in micros a thousand: one whole micro an impression. */
export const CPM_STEP = 1_000
