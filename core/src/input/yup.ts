import { setLocale } from 'yup'

/** What a value of a kind is called when another came in its place. */
const KINDS: Readonly<Record<string, string>> = {
  string: 'text',
  number: 'a number',
  boolean: 'yes or no',
  array: 'a list',
  object: 'a group of fields',
  mixed: 'something else'
}

// Words of the library never reach a user: whatever a schema does not say itself is said in ours. Schemas take these when they are
// made, so every one of them is made with the `yup` of this module.
setLocale({
  mixed: {
    default: 'This cannot be taken as it is.',
    required: 'This is needed.',
    defined: 'This is needed.',
    notNull: 'This is needed.',
    oneOf: 'Not one of the values we know.',
    notOneOf: 'This value cannot be used here.',
    notType: ({ type }: { type: string }) => `This must be ${KINDS[type] ?? 'something else'}.`
  },
  string: {
    length: ({ length }) => `This has exactly ${length} letters.`,
    min: ({ min }) => `This has at least ${min} letters.`,
    max: ({ max }) => `This has at most ${max.toLocaleString('en')} letters.`,
    matches: 'This is not written as it should be.',
    email: 'This must be an e-mail address.',
    url: 'This must be a web address.',
    uuid: 'This must be an identifier.',
    trim: 'No spaces before it or after it.',
    lowercase: 'Small letters only.',
    uppercase: 'Capital letters only.'
  },
  number: {
    min: ({ min }) => `This is at least ${min.toLocaleString('en')}.`,
    max: ({ max }) => `This is at most ${max.toLocaleString('en')}.`,
    lessThan: ({ less }) => `This is less than ${less.toLocaleString('en')}.`,
    moreThan: ({ more }) => `This is more than ${more.toLocaleString('en')}.`,
    positive: 'This is more than 0.',
    negative: 'This is less than 0.',
    integer: 'This must be a whole number.'
  },
  boolean: { isValue: ({ value }) => `This must be ${String(value)}.` },
  object: { noUnknown: 'Not a field we know.' },
  array: {
    length: ({ length }) => `This has exactly ${length} entries.`,
    min: ({ min }) => `This has at least ${min} entries.`,
    max: ({ max }) => `This has at most ${max.toLocaleString('en')} entries.`
  }
})

export * as yup from 'yup'
