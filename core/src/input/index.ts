export { yup } from './yup.js'
export { MOST_ID, idField, linesOfText, pastedText, textList, told, withoutControls } from './fields.js'
export { MOST_PROBLEMS, type FieldIssue } from './structure.js'
export { InputError, parseInput } from './parse.js'
