import type { LineDraft } from '@tin-harbor/core/buying'
import type { AdView } from '@tin-harbor/core/contract'
import { viewPoint } from '@tin-harbor/core/response'
import { FORMAT_TABLE } from '@tin-harbor/core/taxonomy'

/** View point of an ad of a line, in thousandths of its length; nothing where that is its end. */
export function viewPointOf({ viewSeconds, format }: LineDraft, seconds: number | undefined): number | undefined {
  const length = seconds ?? FORMAT_TABLE[format].watched?.usualSeconds
  const point = length === undefined ? 1000 : viewPoint(viewSeconds, length)
  return point < 1000 ? point : undefined
}

/** The same of a line's ads in the mean, or of a usual length before it has any. */
export function meanViewPoint(draft: LineDraft, ads: readonly Pick<AdView, 'seconds'>[]): number | undefined {
  const points = (ads.length > 0 ? ads : [{ seconds: undefined }]).map(({ seconds }) => viewPointOf(draft, seconds) ?? 1000)
  const mean = Math.round(points.reduce((sum, point) => sum + point, 0) / points.length)
  return mean < 1000 ? mean : undefined
}
