export const MICROS = 1_000_000
/** Micros of a cent: money is paid in whole ones, and less than one left is nothing to speak of. */
export const CENT = MICROS / 100
/** Smallest step of a CPM, in micros a thousand: one whole micro an impression. */
export const CPM_STEP = 1_000

/** Plain decimal text of micros with two decimals, or three where the amount needs them. */
export function plainMoney(micros: number): string {
  const text = (micros / MICROS).toFixed(6)
  return text.replace(/0{1,4}$/, '')
}
