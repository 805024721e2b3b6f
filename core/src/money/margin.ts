/** A margin is a share of our cost in millionths: 125,000 is 12.5 %. */
export const MARGIN_ONE = 1_000_000
/** Steps that margins go in: a hundredth of a per cent. */
export const MARGIN_STEP = 100

/** From which market hour an advertiser's margin is so. */
export interface MarginFrom {
  fromHour: number
  ppm: number
}

/** What a margin was in a market hour; none before the first. @param history in the order of the hours */
export function marginAt(history: readonly MarginFrom[], hour: number): number {
  let ppm = 0
  for (const one of history) {
    if (one.fromHour > hour) break
    ppm = one.ppm
  }
  return ppm
}

/**
 * What a client is charged for what we paid: our cost and the margin on it. It is summed exactly, and rounded once, half up: charges of
 * parts may be half a micro each from what the whole is charged, the whole never from itself.
 * @param parts what was paid under one margin each; costs in micros, not negative
 * @returns micros
 */
export function chargedMicros(parts: Iterable<{ costMicros: number; ppm: number }>): number {
  let cost = 0n
  let shares = 0n
  for (const { costMicros, ppm } of parts) {
    cost += BigInt(costMicros)
    shares += BigInt(costMicros) * BigInt(ppm)
  }
  const one = BigInt(MARGIN_ONE)
  return Number(cost + (shares * 2n + one) / (one * 2n))
}
