import { isWatched } from '../taxonomy/index.js'
import { phraseWords, termsOfAd, weekWords, type Finding, type LineDraft } from '../buying/index.js'
import { type Restriction } from '../targeting/index.js'
import { DIMENSION_GROUPS, type Dimension } from '../dimensions/index.js'
import {
  AIM_EVENTS,
  LIMIT_WORDS,
  viewWords,
  clockWords,
  MODEL_WORDS,
  ONCE_WORDS,
  PACING_WORDS,
  ROTATION_WORDS,
  dateWords,
  euros,
  isMoneyLimit,
  type LimitName
} from './long.js'

export const CLAUSES = ['A', 'B', 'C', 'D', 'E', 'F', 'G'] as const
export type Clause = (typeof CLAUSES)[number]
export const CLAUSE_NAMES: Readonly<Record<Clause, string>> = {
  A: 'Inventory',
  B: 'People',
  C: 'Hours',
  D: 'Price',
  E: 'Pace and caps',
  F: 'Creatives',
  G: 'Landing'
}

/** Groups of dimensions of the two clauses that restrict. */
const GROUPS_OF: Readonly<Record<'A' | 'B', readonly string[]>> = {
  A: ['slot', 'context', 'inventory'],
  B: ['where', 'device', 'connection', 'who']
}
export const DIMENSIONS_OF = { A: dimensionsOf('A'), B: dimensionsOf('B') } as const
function dimensionsOf(clause: 'A' | 'B'): readonly Dimension[] {
  return DIMENSION_GROUPS.filter((group) => GROUPS_OF[clause].includes(group.name)).flatMap((group) => group.dimensions)
}
export const clauseOf = (dimension: Dimension): Clause => (DIMENSIONS_OF.A.includes(dimension) ? 'A' : 'B')

/** What a phrase is about: a restriction by its dimension and mode, or a part of the line by name. */
export type LinePhraseOf =
  | 'format'
  | 'where'
  | 'restriction'
  | 'flight'
  | 'hours'
  | 'bid'
  | 'maximum'
  | 'aim'
  | 'view'
  | 'limits'
  | 'pacing'
  | 'caps'
  | 'gap'
  | 'landing'
  | 'once'
  | 'buys'
  | 'steps'
  | 'adjustments'
  | 'repeat'
  | 'rotation'

/** A phrase that can be edited where it stands. */
export interface LinePhrase {
  of: LinePhraseOf
  clause: Clause
  words: string
  /** Beginnings of the paths of the fields that it says. */
  fields: readonly string[]
  restriction?: Pick<Restriction, 'dimension' | 'mode'>
}

/** The paragraph piece by piece: plain words, and phrases. */
export type Piece = string | LinePhrase

/** Budgets are said without cents where they have none. */
const whole = (micros: number) => euros(micros).replace(/\.00$/, '')

/** `14 to 23 March`, the year where it is another than the clock's would be said twice. */
function flightWords({ startDate, endDate, startHour, endHour }: LineDraft['flight']): string {
  const from = dateWords(startDate)
  if (startHour != null || endHour != null)
    return `from ${from}${clockWords(startHour)} ${endDate === null ? 'on' : `to ${dateWords(endDate)}${clockWords(endHour)}`}`
  if (endDate === null) return `from ${from} on`
  const to = dateWords(endDate)
  if (startDate === endDate) return `on ${from}`
  const [day, month, year] = from.split(' ')
  const [, endMonth, endYear] = to.split(' ')
  return year !== endYear ? `from ${from} to ${to}` : month !== endMonth ? `from ${day} ${month} to ${to}` : `from ${day} to ${to}`
}

/** Hours in few words: when it is open, and that some hours bid otherwise. */
export function hoursSaid(hours: LineDraft['hours']): string {
  if (!hours) return 'at all hours'
  const bent = hours.perMille.filter((perMille) => perMille > 0 && perMille !== 1000).length
  const open = hours.perMille.every((perMille) => perMille > 0)
    ? 'at all hours'
    : `on ${weekWords(hours.perMille)}`
        .replace(/^on (\d+ of 168 hours)$/, 'in $1')
        .replace(/^on (mornings|nights|afternoons|evenings|\d)/, 'in $1')
        .replace(/^in (\d+ to \d+)$/, 'from $1')
  return `${open}${bent > 0 ? `, ${bent} of them at another bid` : ''}${hours.clock === 'viewer' ? " of the viewer's time" : ''}`
}

export function capWords(caps: LineDraft['caps']): string {
  const window = (hours: number) =>
    hours === 24
      ? 'a day'
      : hours === 168
        ? 'a week'
        : hours % 24 === 0
          ? `in ${hours / 24} days`
          : hours === 1
            ? 'an hour'
            : `in ${hours} hours`
  const times = (n: number) => (n === 1 ? 'once' : n === 2 ? 'twice' : `${n} times`)
  return caps.length === 0 ? 'any number of times' : caps.map((cap) => `${times(cap.times)} ${window(cap.hours)}`).join(' and ')
}

function limitWords(draft: LineDraft): string {
  const said = (Object.keys(LIMIT_WORDS) as LimitName[]).flatMap((name) => {
    const value = draft.budget[name]
    return value == null ? [] : [`${isMoneyLimit(name) ? whole(value) : value.toLocaleString('en')} ${LIMIT_WORDS[name]}`]
  })
  return said.length === 0 ? 'what its campaign allows' : said.join(', ')
}

export const buysWords = ({ buys }: LineDraft) => {
  const deals = buys?.deals.length ?? 0
  const words = deals === 0 ? '' : `${deals} ${deals === 1 ? 'deal' : 'deals'}`
  return !buys || (buys.open && deals === 0) ? 'on the open market' : buys.open ? `on the open market and by ${words}` : `by ${words} alone`
}

const adjusted = (draft: LineDraft) => {
  const count = draft.price.adjustments?.length ?? 0
  return count === 0 ? null : `${count} ${count === 1 ? 'adjustment' : 'adjustments'}`
}

/** A restriction as the paragraph says it, its fields with it. */
function restrictionPhrase(restriction: Restriction): LinePhrase {
  const { dimension, mode } = restriction
  return {
    of: dimension === 'where' && mode === 'include' ? 'where' : 'restriction',
    clause: clauseOf(dimension),
    words: phraseWords(restriction),
    fields: [`targeting.${dimension}`],
    restriction: { dimension, mode }
  }
}

function pricePieces(draft: LineDraft): Piece[] {
  const { price, viewSeconds } = draft
  const { model, bidMicros, maxMicros, aim, follow, steps = [], repeatDiscount = 0 } = price
  const phrase = (name: LinePhraseOf, words: string, ...fields: string[]): LinePhrase => ({ of: name, clause: 'D', words, fields })
  const bid = bidMicros === null ? 'nothing yet' : `${euros(bidMicros)} ${MODEL_WORDS[model]}`
  const adjustments = adjusted(draft)
  return [
    ...(aim
      ? [' Aim at ', phrase('aim', `${euros(aim.micros)} for ${AIM_EVENTS[aim.event]}`, 'price.aim')]
      : follow
        ? [' Follow the market up to ', phrase('bid', bid, 'price.bidMicros', 'price.follow')]
        : [' Bid ', phrase('bid', bid, 'price.bidMicros', 'price.model')]),
    ...(maxMicros === null ? [] : [', never above ', phrase('maximum', euros(maxMicros), 'price.maxMicros')]),
    ...(steps.length > 0 ? [', changing ', phrase('steps', steps.length === 1 ? 'once' : `${steps.length} times`, 'price.steps')] : []),
    ...(viewSeconds != null || (model === 'view' && isWatched(draft.format))
      ? [', viewed ', phrase('view', viewWords(viewSeconds), 'viewSeconds')]
      : []),
    ...(adjustments ? [', with ', phrase('adjustments', adjustments, 'price.adjustments')] : []),
    ...(repeatDiscount > 0 ? [', ', phrase('repeat', `${repeatDiscount / 10} % less for each repeat`, 'price.repeatDiscount')] : [])
  ]
}

/**
 * A line as one paragraph; every phrase that is not plain words can be edited. Long parts are said short: the long wording
 * says all of them.
 */
export function paragraph(draft: LineDraft): Piece[] {
  const { restrictions } = draft.targeting
  const phrases = restrictions.map(restrictionPhrase)
  const where: Piece[] = restrictions.some(({ dimension, mode }) => dimension === 'where' && mode === 'include')
    ? []
    : [
        ' ',
        {
          of: 'where',
          clause: 'B',
          words: 'nowhere yet',
          fields: ['targeting.where'],
          restriction: { dimension: 'where', mode: 'include' }
        }
      ]
  const { caps, gapMinutes, pacing, rotation = 'weight' } = draft
  const phrase = (name: LinePhraseOf, clause: Clause, words: string, ...fields: string[]): LinePhrase => ({
    of: name,
    clause,
    words,
    fields
  })
  const isPlain = (n: number) => n === 0 || ['where', 'device'].includes(restrictions[n].dimension)
  return [
    'Buy ',
    phrase('format', 'A', draft.format, 'format'),
    ...where,
    ...phrases.flatMap((one, n): Piece[] => [isPlain(n) ? ' ' : ', ', one]),
    ...(buysWords(draft) === 'on the open market' ? [] : [', ', phrase('buys', 'A', buysWords(draft), 'buys')]),
    ', ',
    phrase('flight', 'C', flightWords(draft.flight), 'flight', 'zone'),
    ' ',
    phrase('hours', 'C', hoursSaid(draft.hours), 'hours'),
    '.',
    ...pricePieces(draft),
    '; spend ',
    phrase('limits', 'E', limitWords(draft), 'budget'),
    ' ',
    phrase('pacing', 'E', PACING_WORDS[pacing], 'pacing'),
    '; show it to one person ',
    phrase('caps', 'E', capWords(caps), 'caps'),
    ...(gapMinutes ? [', ', phrase('gap', 'E', `${gapMinutes} minutes apart`, 'gapMinutes')] : []),
    ...(rotation === 'weight' ? [] : ['; ads take turns ', phrase('rotation', 'F', ROTATION_WORDS[rotation], 'rotation')]),
    '. Land on ',
    phrase('landing', 'G', landingPhrase(draft), 'landing'),
    '; once cleared, ',
    phrase('once', 'C', ONCE_WORDS[draft.onceCleared], 'onceCleared'),
    '.'
  ]
}

/** A link without what is not needed to know it. */
export const landingSaid = (link: string) => {
  const bare = link
    .replace(/^https?:\/\//, '')
    .replace(/[?#].*$/, '')
    .replace(/\/$/, '')
  return bare.length > 44 ? `${bare.slice(0, 43)}…` : bare
}

/** Where people land, with how many have pages of their own. */
function landingPhrase({ landing, landings = [] }: LineDraft): string {
  const own = landings.length
  const apart = own === 0 ? '' : `${own === 1 ? 'a page' : `${own} pages`} by country or device`
  if (landing === '') return apart === '' ? 'no page of its own' : apart
  return apart === '' ? landingSaid(landing) : `${landingSaid(landing)}, and ${apart}`
}

export const paragraphWords = (draft: LineDraft) =>
  paragraph(draft)
    .map((piece) => (typeof piece === 'string' ? piece : piece.words))
    .join('')

/** Whether a finding is about one of these fields. */
export const isAbout = ({ field }: Pick<Finding, 'field'>, fields: readonly string[]) =>
  fields.some((begins) => field === begins || field.startsWith(`${begins}.`) || field.startsWith(`${begins}[`))

const CLAUSE_FIELDS: readonly (readonly [begins: string, clause: Clause])[] = [
  ['format', 'A'],
  ['buys', 'A'],
  ['flight', 'C'],
  ['zone', 'C'],
  ['hours', 'C'],
  ['onceCleared', 'C'],
  ['price', 'D'],
  ['viewSeconds', 'D'],
  ['budget', 'E'],
  ['pacing', 'E'],
  ['caps', 'E'],
  ['gapMinutes', 'E'],
  ['rotation', 'F'],
  ['creatives', 'F'],
  ['ads', 'F'],
  ['landing', 'G'],
  ['landings', 'G']
]
/** The clause in which a field is edited; null for the name, which stands above them. */
export function clauseOfField(field: string): Clause | null {
  const dimension = /^targeting\.([^.]+)/.exec(field)?.[1]
  if (dimension) return clauseOf(dimension as Dimension)
  if (field.startsWith('targeting')) return 'B'
  return CLAUSE_FIELDS.find(([begins]) => isAbout({ field }, [begins]))?.[1] ?? null
}

/** A clause in one sentence, as it stands when it is closed. */
export function clauseWords(draft: LineDraft, clause: Clause, ads: readonly { id?: number; stopped?: string | null }[] = []): string {
  const restrictions = (clause: 'A' | 'B') =>
    draft.targeting.restrictions.filter(({ dimension }) => clauseOf(dimension) === clause).map(phraseWords)
  const { price } = draft
  switch (clause) {
    case 'A':
      return [buysWords(draft), ...restrictions('A')].join('; ')
    case 'B':
      return restrictions('B').join('; ') || 'anybody, anywhere'
    case 'C':
      return `${flightWords(draft.flight)}, ${hoursSaid(draft.hours)}; once cleared, ${ONCE_WORDS[draft.onceCleared]}`
    case 'D':
      return pricePieces(draft)
        .map((piece) => (typeof piece === 'string' ? piece : piece.words))
        .join('')
        .trim()
        .replace(/^Bid /, '')
        .replace(/^./, (letter) => (price.aim || price.follow ? letter.toLowerCase() : letter))
    case 'E':
      return [
        limitWords(draft),
        PACING_WORDS[draft.pacing],
        capWords(draft.caps),
        draft.gapMinutes ? `${draft.gapMinutes} minutes apart` : ''
      ]
        .filter(Boolean)
        .join('; ')
    case 'F': {
      if (ads.length === 0) return 'none yet'
      const off = ads.filter(({ id }) => id !== undefined && termsOfAd(draft, id).off).length
      const stopped = ads.filter((ad) => ad.stopped).length
      const said = [
        `${ads.length} ${ads.length === 1 ? 'ad' : 'ads'}`,
        off > 0 ? `${off} of them off` : '',
        stopped > 0 ? `${stopped} stopped` : ''
      ]
      return [...said.filter(Boolean), ROTATION_WORDS[draft.rotation ?? 'weight']].join(', ')
    }
    case 'G':
      return landingPhrase(draft)
  }
}
