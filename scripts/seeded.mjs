/** @param {number} seed @returns {() => number} uniform in [0, 1), the same for the same seed */
export function seeded(seed) {
  let state = seed
  return () => {
    state = (Math.imul(state, 1664525) + 1013904223) | 0
    return (state >>> 0) / 4294967296
  }
}
