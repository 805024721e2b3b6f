/** What the commands print: steps with times, and one bar that is drawn over itself on a terminal. */

const began = Date.now()
let open = false

/** @param {string} text */
export function say(text) {
  if (open) process.stdout.write('\n')
  open = false
  console.log(`${((Date.now() - began) / 1000).toFixed(1).padStart(6)} s  ${text}`)
}

/** @type {Map<string, number>} */
const shown = new Map()

/**
 * @param {string} label
 * @param {number} share 0 to 1
 */
export function bar(label, share) {
  const tenth = Math.floor(share * 10)
  if (!process.stdout.isTTY) {
    // Without a terminal a line a quarter is enough.
    if (Math.floor(share * 4) > (shown.get(label) ?? -1)) {
      shown.set(label, Math.floor(share * 4))
      say(`${label} ${Math.round(share * 100)} %`)
    }
    return
  }
  process.stdout.write(
    `\r          ${label.padEnd(34)} ${'='.repeat(tenth * 2)}${' '.repeat(20 - tenth * 2)} ${Math.round(share * 100)} %   `
  )
  open = share < 1
  if (share >= 1) process.stdout.write('\n')
}
