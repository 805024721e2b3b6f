import { yup } from '../input/index.js'

/** Languages that the studio speaks. */
export const VOICES = {
  English: 'en-gb',
  German: 'de',
  Dutch: 'nl',
  French: 'fr-fr',
  Portuguese: 'pt',
  Spanish: 'es',
  Italian: 'it'
} as const
export type Voice = keyof typeof VOICES

/** What the studio is asked to speak. */
export const spokenSchema = yup
  .object({
    name: yup.string().trim().required('The spot needs a name.').max(150, 'The name has at most 150 letters.'),
    script: yup
      .string()
      .trim()
      .required('What is to be said?')
      .max(1500, 'A script has at most 1,500 letters.')
      .matches(/[\p{L}\p{N}]/u, 'What is to be said?'),
    voice: yup
      .string()
      .oneOf(Object.keys(VOICES) as Voice[], 'The studio does not speak that.')
      .required(),
    seconds: yup.number().required('How long is the spot?').min(5, 'A spot has at least 5 s.').max(60, 'A spot has at most 60 s.'),
    /** With music under it. */
    bed: yup.boolean().required()
  })
  .noUnknown()
export type Spoken = yup.InferType<typeof spokenSchema>
