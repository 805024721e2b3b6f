import { yup } from '../input/index.js'
import { RIGHTS, ROLES, type Right, type Role } from './roles.js'

/** What each role may, as a sentence about a person says it. */
export const ROLE_WORDS: Readonly<Record<Role, string>> = {
  reader: 'reads, forecasts included',
  assistant: 'drafts and forecasts',
  trader: 'puts live, runs the market and steers',
  finance: 'reads, and moves money',
  admin: 'does all of it, and says who may'
}

export const RIGHT_NAMES = Object.keys(RIGHTS) as Right[]
/** What a token is allowed, as its owner chooses it. */
export const RIGHT_WORDS: Readonly<Record<Right, string>> = {
  read: 'read all that you see',
  draft: 'draft, and ask for forecasts',
  live: 'put live, and steer',
  clock: 'run the market’s clock',
  money: 'read and move money',
  team: 'say who may what'
}
/** Nobody is let in, and no password is made, by a script. */
export const TOKEN_RIGHTS: readonly Right[] = RIGHT_NAMES.filter((right) => right !== 'team')

/** An address as it is kept: however it is typed, it is the same. */
export const plainEmail = (email: string): string => email.trim().toLowerCase()

const idsField = () =>
  yup
    .array()
    .of(yup.number().integer('Advertisers are named by their numbers.').min(1, 'There is no such advertiser.').required())
    .max(500, 'At most 500 advertisers.')

const emailField = () =>
  yup
    .string()
    .max(190, 'An e-mail address has at most 190 letters.')
    .matches(/^\s*[^\s@]+@[^\s@]+\.[^\s@]+\s*$/, 'Type an e-mail address such as ines@wharfside.example.')
    .required('Type an e-mail address.')

const sees = {
  role: yup.string().oneOf(ROLES, 'Which role?').required('Which role?'),
  allAdvertisers: yup.boolean().required('All advertisers, or some?'),
  advertisers: idsField()
    .default([])
    .when('allAdvertisers', ([all], field) => (all === false ? field.min(1, 'Choose an advertiser, or all of them.') : field))
}

/** Who is asked in, and what they may. */
export const invitationSchema = yup.object({ email: emailField(), ...sees }).noUnknown()
export type Invitation = yup.InferType<typeof invitationSchema>

/** What somebody may; one who left may nothing. */
export const memberSchema = yup.object({ ...sees, active: yup.boolean().required('Are they here?') }).noUnknown()
export type Member = yup.InferType<typeof memberSchema>

const LEAST_PASSWORD = 10
const passwordField = () =>
  yup
    .string()
    .min(LEAST_PASSWORD, `A password has at least ${LEAST_PASSWORD} letters.`)
    .max(200, 'A password has at most 200 letters.')
    .required('Type a password.')

/** A word that was sent in a link. */
const NOT_WHOLE = 'This link is not whole, or its page was loaded anew: open it once more where it was sent to.'
const secretField = () => yup.string().max(100, NOT_WHOLE).required(NOT_WHOLE)
export const secretSchema = yup.object({ secret: secretField() }).noUnknown()
export const acceptSchema = yup
  .object({
    secret: secretField(),
    name: yup.string().matches(/\S/, 'What is your name?').max(120, 'A name has at most 120 letters.').required('What is your name?'),
    password: passwordField()
  })
  .noUnknown()
export const forgottenSchema = yup.object({ email: emailField() }).noUnknown()
export const newPasswordSchema = yup.object({ secret: secretField(), password: passwordField() }).noUnknown()
export const changePasswordSchema = yup
  .object({ old: yup.string().max(200, 'A password has at most 200 letters.').required('Type your password.'), password: passwordField() })
  .noUnknown()

/** How numbers are written, and what a locale writes them so. */
export const NUMBER_FORMATS = { '1,234.50': 'en-GB', '1.234,50': 'de-DE', '1 234,50': 'fr-FR', '1’234.50': 'de-CH' } as const
/** How dates are written, and by which locale. */
export const DATE_FORMATS = { '2 Mar': 'en-GB', 'Mar 2': 'en-US', '02.03.': 'de-DE', '2 mars': 'fr-FR' } as const
/** Days that weeks may begin with, in the numbers of ECMAScript. */
export const WEEK_STARTS = { Monday: 1, Sunday: 0, Saturday: 6 } as const
type NumberFormat = keyof typeof NUMBER_FORMATS
type DateFormat = keyof typeof DATE_FORMATS
export type WeekStart = keyof typeof WEEK_STARTS
const names = <K extends string>(table: Readonly<Record<K, unknown>>) => Object.keys(table) as K[]

/** How somebody likes figures and days to be written. */
export const formatsSchema = yup
  .object({
    numbers: yup.string().oneOf(names<NumberFormat>(NUMBER_FORMATS), 'Not a way to write numbers.').required('How are numbers written?'),
    dates: yup.string().oneOf(names<DateFormat>(DATE_FORMATS), 'Not a way to write dates.').required('How are dates written?'),
    week: yup
      .string()
      .oneOf(names<WeekStart>(WEEK_STARTS), 'Weeks begin on Monday, Sunday or Saturday.')
      .required('When does a week begin?')
  })
  .noUnknown()
export type Formats = yup.InferType<typeof formatsSchema>

/** Longest that a token is good for, days. */
const MOST_TOKEN_DAYS = 366
/** A token for scripts: what it may of what its owner may, for whom, and how long. */
export const accessTokenSchema = yup
  .object({
    name: yup.string().matches(/\S/, 'What is it for?').max(120, 'A name has at most 120 letters.').required('What is it for?'),
    rights: yup
      .array()
      .of(yup.string().oneOf(TOKEN_RIGHTS, 'Not something that a token may do.').required())
      .min(1, 'A token that may nothing is of no use.')
      .required('What may it do?'),
    advertisers: idsField().min(1, 'Choose an advertiser, or all of yours.').nullable().defined('For which advertisers?'),
    days: yup
      .number()
      .integer('Whole days.')
      .min(1, 'At least a day.')
      .max(MOST_TOKEN_DAYS, `At most ${MOST_TOKEN_DAYS} days.`)
      .required('For how long?')
  })
  .noUnknown()
export type AccessTokenDraft = yup.InferType<typeof accessTokenSchema>
