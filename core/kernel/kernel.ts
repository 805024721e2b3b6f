/**
 * The two loops in which a forecast spends its time, for lines whose bid is the same for every row: which rows match and
 * what they would take to win, and what a bid wins of them. Compiled to WebAssembly by the build. The TypeScript beside it
 * (match-tape.ts, general-replay.ts) says the same in plain words, and tests hold the two together.
 *
 * A block of 32-bit numbers at `p` says where everything lies: see kernel-layout.ts, from which layout.ts is made.
 */
export { matchRows } from './match'
export { replayRows } from './replay'
export { standRows } from './stand'
