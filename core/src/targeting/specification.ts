import { idField, textList, told, yup } from '../input/index.js'
import { findSegment } from '../taxonomy/index.js'
import { DIMENSIONS, DIMENSION_KINDS, type Dimension, type SegmentGroup, type Wanted } from '../dimensions/index.js'

/**
 * One restriction of a line. All restrictions must hold; an exclusion always wins. The order is the trader's: the
 * sieve shows it, and each restriction takes the bit of its place.
 */
export interface Restriction extends Wanted {
  dimension: Dimension
  mode: 'include' | 'exclude'
  values: string[]
  /** The list whose values they are and stay, by number. */
  list?: number
}

export interface Targeting {
  restrictions: Restriction[]
}

/** Restrictions must fit the bits of one signed 32-bit integer. */
export const MOST_RESTRICTIONS = 31
const MOST_VALUES = 10_000
const DEEPEST_GROUP = 5
const MOST_GROUP_PARTS = 200

/** What is wrong with a tree of segments, in words; null when nothing is. */
function groupProblem(group: unknown, depth = 1): string | null {
  if (depth > DEEPEST_GROUP) return `Groups of segments go at most ${DEEPEST_GROUP} deep.`
  if (typeof group !== 'object' || group === null) return 'A group of segments joins its parts by and, or or not.'
  const { join, parts, ...rest } = group as Partial<SegmentGroup>
  if (join !== 'and' && join !== 'or' && join !== 'not') return 'A group of segments joins its parts by and, or or not.'
  if (Object.keys(rest).length > 0) return 'Not a field we know.'
  if (!Array.isArray(parts) || parts.length === 0) return 'A group of segments needs a part.'
  if (parts.length > MOST_GROUP_PARTS) return `A group of segments takes at most ${MOST_GROUP_PARTS} parts.`
  for (const part of parts) {
    const problem =
      typeof part === 'string' ? (findSegment(part) ? null : `Not a segment we know: ${told([part])}.`) : groupProblem(part, depth + 1)
    if (problem) return problem
  }
  return null
}

const restrictionSchema = yup
  .object({
    dimension: yup.string().oneOf(DIMENSIONS, 'Not something a line can be restricted by.').required(),
    mode: yup
      .string()
      .oneOf(['include', 'exclude'] as const)
      .required()
      .test('mode', '', function (mode) {
        const only = DIMENSION_KINDS[(this.parent as Restriction).dimension]?.mode
        return (
          !only ||
          only === mode ||
          this.createError({ message: `A restriction by ${(this.parent as Restriction).dimension} can only ${only}.` })
        )
      }),
    values: textList(MOST_VALUES, `A restriction takes at most ${MOST_VALUES.toLocaleString('en')} values.`)
      .defined()
      .test('some', 'A restriction needs a value.', function (values) {
        return (values?.length ?? 0) > 0 || (this.parent as Restriction).group !== undefined
      })
      .test('known', '', function (values) {
        const kind = DIMENSION_KINDS[(this.parent as Restriction).dimension]
        const wrong = values?.filter((value) => !kind?.isKnown(value)) ?? []
        return wrong.length === 0 || !kind || this.createError({ message: `Not a ${kind.noun} we know: ${told(wrong)}.` })
      }),
    exact: yup.boolean().optional(),
    list: idField('Which list?').optional() as yup.NumberSchema<number | undefined>,
    group: yup
      .mixed<SegmentGroup>()
      .optional()
      .test('group', '', function (group) {
        if (group === undefined) return true
        if ((this.parent as Restriction).dimension !== 'segments')
          return this.createError({ message: 'Only segments are joined in groups.' })
        const problem = groupProblem(group)
        return problem === null || this.createError({ message: problem })
      })
  })
  .noUnknown()

export const targetingSchema: yup.ObjectSchema<Targeting> = yup
  .object({
    restrictions: yup
      .array()
      .of(restrictionSchema.required())
      .max(
        MOST_RESTRICTIONS,
        ({ value }) => `A line takes at most ${MOST_RESTRICTIONS} restrictions; this one has ${(value as unknown[]).length}.`
      )
      .required()
      .test('once', '', function (restrictions) {
        const seen = new Set<string>()
        for (const { dimension, mode } of restrictions ?? []) {
          if (seen.has(dimension + mode))
            return this.createError({ message: `Two restrictions ${mode} by ${dimension}; put their values into one.` })
          seen.add(dimension + mode)
        }
        return true
      })
  })
  .noUnknown() as yup.ObjectSchema<Targeting>

/** The values a line includes (or excludes) of a dimension; empty when it has no such restriction. */
export function valuesOf(targeting: Targeting, dimension: Dimension, mode: Restriction['mode'] = 'include'): readonly string[] {
  return targeting.restrictions.find((r) => r.dimension === dimension && r.mode === mode)?.values ?? []
}

/** A copy in which a dimension's restriction has these values; it keeps its place, and goes when there are none. */
export function withValues(targeting: Targeting, dimension: Dimension, mode: Restriction['mode'], values: readonly string[]): Targeting {
  const isIt = (r: Restriction) => r.dimension === dimension && r.mode === mode
  const next: Restriction = { dimension, mode, values: [...values] }
  const restrictions: Restriction[] = targeting.restrictions.some(isIt)
    ? targeting.restrictions.map((r) => (isIt(r) ? withoutList({ ...r, values: [...values] }) : r))
    : [...targeting.restrictions, next]
  return { restrictions: restrictions.filter((r) => r.values.length > 0 || r.group !== undefined) }
}

/** A copy with a restriction in the place of the one of its dimension and mode, or after the others. */
export function withRestriction({ restrictions }: Targeting, next: Restriction): Targeting {
  const isIt = (r: Restriction) => r.dimension === next.dimension && r.mode === next.mode
  return { restrictions: restrictions.some(isIt) ? restrictions.map((r) => (isIt(r) ? next : r)) : [...restrictions, next] }
}

/** A copy without the restriction of a dimension and mode. */
export function withoutRestriction({ restrictions }: Targeting, { dimension, mode }: Pick<Restriction, 'dimension' | 'mode'>): Targeting {
  return { restrictions: restrictions.filter((r) => r.dimension !== dimension || r.mode !== mode) }
}

/** Values that were chosen by hand are no longer those of a list. */
function withoutList({ list: _, ...restriction }: Restriction): Restriction {
  return restriction
}
