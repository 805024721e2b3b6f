/** Words of the long form that could be taken for its grammar stand between these. */
const OPEN = '“'
const CLOSE = '”'

/** A text between quotes; quotes and strokes inside it are escaped. */
export function quoted(text: string): string {
  return `${OPEN}${text.replace(/[\\”]/g, '\\$&')}${CLOSE}`
}

/** A value as it stands in a list: bare where it cannot be misread. */
export function listed(value: string): string {
  return /^[\p{L}\p{N}](?:[\p{L}\p{N} /&'’+-]*[\p{L}\p{N}+])?$/u.test(value) &&
    !/ (?:or|as|joined|alone|and all) |^(?:or|as|alone)$| (?:alone|joined)$/u.test(value)
    ? value
    : quoted(value)
}

/** The text of a value that is quoted or bare. */
export function unquoted(text: string): string {
  return text.startsWith(OPEN) && text.endsWith(CLOSE) ? text.slice(1, -1).replace(/\\(.)/g, '$1') : text
}

/** Where quotes begin and end in a text, so that marks inside them count for nothing. */
function isQuotedAt(text: string): Uint8Array {
  const inside = new Uint8Array(text.length)
  let open = false
  for (let i = 0; i < text.length; i++) {
    if (!open && text[i] === OPEN) open = true
    inside[i] = open ? 1 : 0
    if (open && text[i] === '\\' && i + 1 < text.length) inside[++i] = 1
    else if (open && text[i] === CLOSE) open = false
  }
  return inside
}

/** Every place at which a mark stands outside quotes and parentheses, with its length. */
function marksIn(text: string, mark: RegExp): [at: number, length: number][] {
  const inside = isQuotedAt(text)
  const sticky = new RegExp(mark.source, 'uy')
  const found: [number, number][] = []
  let depth = 0
  for (let i = 0; i < text.length; i++) {
    if (inside[i]) continue
    if (text[i] === '(') depth++
    if (text[i] === ')') depth--
    sticky.lastIndex = i
    const match = depth === 0 ? sticky.exec(text) : null
    if (!match) continue
    found.push([i, match[0].length])
    i += match[0].length - 1
  }
  return found
}

/** The parts of a text between marks. */
export function partsOf(text: string, mark: RegExp): string[] {
  let from = 0
  const parts = marksIn(text, mark).map(([start, length]) => {
    const part = text.slice(from, start)
    from = start + length
    return part
  })
  return [...parts, text.slice(from)].map((part) => part.trim()).filter((part) => part !== '')
}

/** A text before and after the first mark; the second is null without one. */
export function cutAt(text: string, mark: RegExp): [before: string, after: string | null] {
  const [first] = marksIn(text, mark)
  return first ? [text.slice(0, first[0]), text.slice(first[0] + first[1])] : [text, null]
}

/** `a, b or c`. */
export const alternatives = (words: readonly string[]) =>
  words.length < 2 ? words.join('') : `${words.slice(0, -1).join(', ')} or ${words[words.length - 1]}`
export const alternativesIn = (text: string) => partsOf(text, /, | or /)
