import { textList, told, yup } from '../input/index.js'
import { targetingSchema } from '../targeting/index.js'
import { DIMENSION_KINDS, type Dimension } from '../dimensions/index.js'
import { nameField } from './fields.js'

/** What a list can hold, and the dimension whose values they are. */
export const LIST_KINDS = {
  properties: 'property',
  placements: 'placement',
  'address ranges': 'address range',
  keywords: 'keyword',
  places: 'where',
  segments: 'segments'
} as const satisfies Record<string, Dimension>
export type ListKind = keyof typeof LIST_KINDS

/** A named set of values, or a whole group of restrictions. */
export const listSchema = yup
  .object({
    name: nameField,
    kind: yup
      .string()
      .oneOf([...Object.keys(LIST_KINDS), 'group'] as (ListKind | 'group')[], 'Not a kind of list we know.')
      .required(),
    values: textList(10_000, 'A list has at most 10,000 values.')
      .required()
      .test('known', '', function (values) {
        const kind = (this.parent as { kind: ListKind | 'group' }).kind
        if (kind === 'group') return (values?.length ?? 0) === 0 || this.createError({ message: 'A group holds restrictions, not values.' })
        const dimensionKind = DIMENSION_KINDS[LIST_KINDS[kind]]
        const wrong = values?.filter((value) => !dimensionKind.isKnown(value)) ?? []
        return wrong.length === 0 || this.createError({ message: `Not a ${dimensionKind.noun} we know: ${told(wrong)}.` })
      }),
    group: targetingSchema.nullable().defined().default(null)
  })
  .noUnknown()
export type SavedList = yup.InferType<typeof listSchema>

/** A deal that a publisher granted: for its placements, at a fixed price or over a floor of its own. */
export const dealSchema = yup
  .object({
    name: nameField,
    publisher: yup.number().integer().min(0).required(),
    kind: yup
      .string()
      .oneOf(['fixed', 'floor'] as const)
      .required(),
    priceMicros: yup
      .number()
      .integer('The price must be whole micros.')
      .moreThan(0, 'The price must be more than 0.')
      .required('A deal needs a price.')
      .test('step', 'The price goes in steps of 0.001.', (micros) => micros == null || micros % 1000 === 0),
    placements: yup.array().of(yup.number().integer().min(0).required()).min(1, 'A deal needs a placement.').max(2000).required(),
    volume: yup.number().integer().min(1).nullable().defined(),
    leastSpendMicros: yup.number().integer().min(0).nullable().defined()
  })
  .noUnknown()
