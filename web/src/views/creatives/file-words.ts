import { fileVerdict, typeWords, weightWords, type FileVerdict, type ToldFinding } from '@tin-harbor/core/creative'
import type { FileView } from '@tin-harbor/core/contract'

/** With a tenth where there is one. */
export const tenths = (value: number) => String(Math.round(value * 10) / 10)

/** What a file is, in one line. */
export function aboutFile({ facts }: FileView): string {
  const { width, height, seconds, bytes, type } = facts
  return [
    typeWords(type),
    ...(width === null ? [] : [`${width}x${height}`]),
    ...(seconds === null ? [] : [`${tenths(seconds)} s`]),
    weightWords(bytes)
  ].join(', ')
}

const kept = new WeakMap<object, FileVerdict>()
/** What every slot says to a file; worked out once. */
export function verdictOf(file: FileView): FileVerdict {
  const known = kept.get(file.facts) ?? fileVerdict(file.facts)
  kept.set(file.facts, known)
  return known
}

/** What of the findings tells something: that other slots have other pixels is no news to a picture that has the pixels of one. */
export function tellingOf(file: FileView): ToldFinding[] {
  const { takes, findings } = verdictOf(file)
  if (file.medium !== 'picture' && file.medium !== 'banner') return findings
  const isOfPixels = ({ rule }: ToldFinding) => rule === 'size' || rule === 'ratio'
  const other = new Set(findings.filter(isOfPixels).flatMap(({ shapes }) => shapes))
  const met = [...takes.map(({ shape }) => shape), ...findings.flatMap(({ shapes }) => shapes)].filter((shape) => !other.has(shape))
  if (met.length === 0) return findings
  return findings.flatMap((one) => {
    const shapes = one.shapes.filter((shape) => met.includes(shape))
    return isOfPixels(one) || shapes.length === 0 ? [] : [{ ...one, shapes }]
  })
}

/** A file in a word. */
export function stateOf(file: FileView): string {
  if (file.retired) return 'retired'
  if (file.usedBy.length > 0) return file.usedBy.length === 1 ? 'on 1 line' : `on ${file.usedBy.length} lines`
  return verdictOf(file).takes.length > 0 ? 'ready' : 'fits nothing yet'
}

/** The row of the sheet that a file lies in: the slots that take it. */
export function rowOf(file: FileView): string {
  const shapes = [...new Set(verdictOf(file).takes.map(({ shape }) => shape))]
  return shapes.join(', ') || 'fits no slot as it is'
}
