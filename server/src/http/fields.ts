import { MOST_ID, yup } from '@tin-harbor/core/input'

/** The version a page edited, for optimistic locking. */
export const versionField = yup
  .number()
  .integer('A version is a whole number.')
  .min(1, 'Versions begin at 1.')
  .max(MOST_ID, 'There is no such version.')
  .required('Say which version you edited.')

/** Names a confirmation, which is carried out once however often it is sent. */
export const tokenField = yup
  .string()
  .matches(/^[\w-]{8,80}$/, 'The confirmation needs a token of 8 to 80 letters.')
  .required('The confirmation needs a token.')
