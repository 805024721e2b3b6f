import fc from 'fast-check'

/**
 * Properties draw from one seed, so that a run that passed passes again; `TEST_SEED` asks them elsewhere, and `TEST_RUNS` more often.
 * A seed that fails goes into the property's own examples.
 */
const { TEST_SEED, TEST_RUNS } = process.env
fc.configureGlobal({ seed: Number(TEST_SEED ?? 20260301), ...(TEST_RUNS ? { numRuns: Number(TEST_RUNS) } : {}) })
