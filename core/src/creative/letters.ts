const segments = new Intl.Segmenter('en', { granularity: 'grapheme' })

/** Letters as they are seen: an accent, a flag or a family of four is one. */
export function letters(text: string): number {
  let count = 0
  for (const _ of segments.segment(text)) count++
  return count
}

/** A text cut where a slot cuts it, at most so many letters with the sign that it was cut. */
export function cutText(text: string, most: number): string {
  if (letters(text) <= most) return text
  return `${[...segments.segment(text)]
    .slice(0, most - 1)
    .map(({ segment }) => segment)
    .join('')
    .trimEnd()}…`
}
