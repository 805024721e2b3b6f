/** Width of a bar for a part of a whole; something is always to be seen of it. */
export const wide = (value: number, whole: number) => `${Math.max(0.15, Math.min(100, (100 * value) / whole))}%`
