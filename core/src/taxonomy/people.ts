/** What is known of people. The position of a value is the number that columns hold. */
export const AGES = ['13-17', '18-24', '25-34', '35-44', '45-54', '55-64', '65+', 'age unknown'] as const

export const GENDERS = ['women', 'men', 'gender unknown'] as const

/** Household income by fifths of a country. */
export const INCOMES = ['lowest fifth', 'second fifth', 'middle fifth', 'fourth fifth', 'highest fifth', 'income unknown'] as const

/** ISO 639-1 codes with their English names, written out: every thread and page would load a library of names for them. */
const LANGUAGE_NAMES = {
  en: 'English',
  pt: 'Portuguese',
  es: 'Spanish',
  fr: 'French',
  de: 'German',
  it: 'Italian',
  nl: 'Dutch',
  sv: 'Swedish',
  da: 'Danish',
  pl: 'Polish',
  hi: 'Hindi',
  bn: 'Bangla',
  mr: 'Marathi',
  ta: 'Tamil',
  ja: 'Japanese',
  id: 'Indonesian',
  jv: 'Javanese',
  zu: 'Zulu',
  xh: 'Xhosa',
  af: 'Afrikaans',
  ca: 'Catalan',
  ga: 'Irish',
  ar: 'Arabic',
  tr: 'Turkish'
} as const
export type Language = keyof typeof LANGUAGE_NAMES
export const LANGUAGES = Object.keys(LANGUAGE_NAMES) as Language[]

/** English name of an ISO 639-1 code. */
export const languageName = (code: string): string => (LANGUAGE_NAMES as Readonly<Record<string, string>>)[code] ?? code

export const INDUSTRIES = [
  'farming',
  'mining',
  'food making',
  'textiles',
  'machinery',
  'chemicals',
  'energy',
  'building',
  'retail',
  'transport',
  'hotels and restaurants',
  'software',
  'telecoms',
  'banking',
  'insurance',
  'real estate',
  'legal and accounting',
  'health care',
  'education',
  'public service'
] as const

export const JOB_FUNCTIONS = [
  'accounting',
  'administration',
  'architecture',
  'buying',
  'care',
  'construction',
  'consulting',
  'customer service',
  'design',
  'driving',
  'engineering',
  'finance',
  'human resources',
  'information technology',
  'law',
  'logistics',
  'management',
  'manufacturing',
  'marketing',
  'medicine',
  'operations',
  'research',
  'sales',
  'security',
  'teaching'
] as const

/** What people are doing, guessed from hour, connection and device. */
export const MOMENTS = [
  'waking up',
  'commuting',
  'working',
  'lunch break',
  'errands',
  'exercise',
  'cooking',
  'family time',
  'study',
  'evening sofa',
  'travelling',
  'falling asleep'
] as const
