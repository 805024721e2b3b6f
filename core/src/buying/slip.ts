import { idField, textList, yup } from '../input/index.js'
import { nameField } from './fields.js'
import type { MainFigures } from '../forecast/index.js'

/** Edits of one line on a slip: the fields that differ from what is in force, or all of a draft that was never live. */
export interface SlipItem {
  line: number
  fields: string[]
}

/** Lines on a slip. */
export const MOST_SLIP_LINES = 500

export const slipItemsSchema: yup.Schema<SlipItem[]> = yup
  .array()
  .of(
    yup
      .object({
        line: idField('Which line?'),
        fields: textList(120, 'A line has at most 120 edits.', 80).min(1, 'Choose an edit first.').required()
      })
      .noUnknown()
      .required()
  )
  .min(1, 'A slip needs an edit.')
  .max(MOST_SLIP_LINES, `A slip takes at most ${MOST_SLIP_LINES} lines.`)
  .required()
  .test(
    'once',
    'A slip names each line once.',
    (items) => new Set(items?.map((item) => item.line)).size === (items?.length ?? 0)
  ) as yup.Schema<SlipItem[]>

export const slipNameField = nameField

/** What stands for all fields of a line that was never live. */
export const WHOLE_LINE = 'whole line'

/** A day of a line, as it is forecast. */
export interface Expected {
  wins: number
  spendMicros: number
}
export const expectedOf = ({ day }: MainFigures): Expected => ({ wins: day.wins.value, spendMicros: day.spend.value })
