import { isLandingLink } from '../buying/index.js'
import { linesOfText, yup } from '../input/index.js'
import { cutText, letters } from './letters.js'
import { TEXTS } from './texts.js'

/** One item of a feed as it was read: texts by the names that the feed gives them. */
export type FeedRow = Readonly<Record<string, string>>

/** What is asked of an item, and the names under which feeds tell it; the first that there is counts. */
const ROLES = {
  key: ['id', 'guid', 'sku', 'gtin', 'identifier', 'link'],
  title: ['title', 'name', 'product'],
  text: ['description', 'summary', 'text', 'content'],
  link: ['link', 'url', 'page'],
  picture: ['image', 'picture', 'image_link', 'image_url', 'enclosure', 'photo', 'thumbnail'],
  price: ['price', 'amount', 'cost'],
  stock: ['stock', 'availability', 'quantity', 'available', 'inventory']
} as const
export type FeedRole = keyof typeof ROLES
export const FEED_ROLES = Object.keys(ROLES) as readonly FeedRole[]
/** Without these an item is no ad. */
export const NEEDED_ROLES: readonly FeedRole[] = ['key', 'title', 'link']

/** Most letters of an item's key. */
const KEY_LETTERS = 190
export const MOST_FEED_ADS = 100

/** The words of a name: `offer/price` and `shop:price` are prices, an attribute's name stands after `@`. */
const wordsOf = (name: string) =>
  name
    .toLowerCase()
    .split(/[/@]/)
    .map((word) => (word.split(':').at(-1) ?? word).replace(/[\s-]+/g, '_'))

/** Which field of a feed is what, by their names; an empty text where there is none. */
export function guessFields(names: readonly string[]): Record<FeedRole, string> {
  // What is called so itself goes before what lies in something that is: an item's link before the address of its picture.
  const named = (wanted: string) =>
    names.find((name) => wordsOf(name).length === 1 && wordsOf(name)[0] === wanted) ??
    names.find((name) => wordsOf(name).at(-1) === wanted) ??
    names.find((name) => wordsOf(name)[0] === wanted)
  return Object.fromEntries(FEED_ROLES.map((role) => [role, ROLES[role].map(named).find(Boolean) ?? ''])) as Record<FeedRole, string>
}

const fieldName = yup.string().max(120, 'A field has at most 120 letters.').defined()
const template = (what: string) => linesOfText(300, `${what} has at most 300 letters before it is filled in.`).defined()

/** How ads are made of a feed's items. */
export const feedSchema = yup
  .object({
    name: yup.string().trim().required('The feed needs a name.').max(120, 'The name has at most 120 letters.'),
    address: yup
      .string()
      .trim()
      .required('Where does the feed lie?')
      .max(2000, 'An address has at most 2,000 letters.')
      .test('address', 'The address must begin with https:// and name a host.', (value) => /^https:/.test(value) && isLandingLink(value)),
    fields: yup.object(Object.fromEntries(FEED_ROLES.map((role) => [role, fieldName])) as Record<FeedRole, typeof fieldName>).noUnknown(),
    /** Texts with `{field}` where an item's own stands; the seven roles are fields too. */
    template: yup
      .object({
        headline: template('The short headline'),
        longHeadline: template('The long headline'),
        text: template('The text'),
        button: template('The button'),
        brand: template('The brand'),
        icon: yup.string().defined()
      })
      .noUnknown(),
    which: yup
      .object({
        words: yup.string().max(200, 'At most 200 letters.').defined(),
        least: yup.number().min(0, 'A price is at least 0.').nullable().defined(),
        most: yup.number().min(0, 'A price is at least 0.').nullable().defined()
      })
      .noUnknown(),
    /** What becomes of an ad whose item says something else by now, until it is made anew. */
    changed: yup.string().oneOf(['goes on', 'stops']).required('What becomes of ads whose items change?')
  })
  .noUnknown()
export type Feed = yup.InferType<typeof feedSchema>

const TEMPLATE_TEXTS = ['headline', 'longHeadline', 'text', 'button', 'brand'] as const
type TemplateText = (typeof TEMPLATE_TEXTS)[number]

/** An item as an ad reads it. */
export interface FeedItem {
  key: string
  title: string
  link: string
  picture: string
  /** As the feed writes it; empty where it tells none. */
  price: string
  /** For choosing by it; null where there is none. */
  amount: number | null
  isOut: boolean
  texts: Record<TemplateText, string>
}

/** An item that is no ad, and why. */
export interface BrokenItem {
  /** Of all items, from 1. */
  nth: number
  /** Empty where it has none. */
  key: string
  says: string
}

/** Values of schema.org/ItemAvailability that cannot be had, and what shops write for them. */
const OUT = /^(0+|no|none|false|n|outofstock|soldout|discontinued|unavailable|gone)$/

/** Whether a stock says that there is nothing left; what it does not say is there. */
export function isOutOfStock(stock: string): boolean {
  const said = stock
    .trim()
    .toLowerCase()
    .replace(/^https?:\/\/schema\.org\//, '')
  const number = /^-?\d+([.,]\d+)?$/.test(said) ? Number(said.replace(',', '.')) : NaN
  return number <= 0 || OUT.test(said.replace(/[\s_-]+/g, ''))
}

/** The number in a price; null where it has none, or more than one. The last point or comma before one or two digits is the decimal one. */
export function amountOf(price: string): number | null {
  const found = /^\D*?(\d[\d.,'\s\u00a0]*)\D*$/u.exec(price.trim())
  if (!found) return null
  const [, whole, decimals = '0'] = /^(.*?)(?:[.,](\d{1,2}))?$/s.exec(found[1].trim()) ?? []
  return Number(`${whole.replace(/\D/g, '')}.${decimals}`)
}

/** A template filled in. A field that an item does not have leaves nothing, and no two spaces. */
export const filledIn = (text: string, valueOf: (field: string) => string) =>
  text
    .replace(/\{([^{}]{1,120})\}/g, (_, field: string) => valueOf(field.trim()))
    .replace(/\s+/g, ' ')
    .trim()

/** Whether nobody has said yet what is what in a feed. */
export const isUntold = ({ fields }: Feed) => FEED_ROLES.every((role) => fields[role] === '')

/** Fields that a template names and no item has. */
export function unknownFields({ template: texts }: Feed, names: readonly string[]): string[] {
  const known = new Set<string>([...FEED_ROLES, ...names])
  const named = TEMPLATE_TEXTS.flatMap((part) => [...texts[part].matchAll(/\{([^{}]{1,120})\}/g)].map(([, field]) => field.trim()))
  return [...new Set(named)].filter((field) => !known.has(field))
}

/** A text at most so long, cut between words where there are some. */
function cutAtWord(text: string, most: number): string {
  if (letters(text) <= most) return text
  const cut = cutText(text, most)
  const space = cut.lastIndexOf(' ')
  return space > cut.length / 2 ? `${cut.slice(0, space).replace(/[\s,;:.–-]+$/u, '')}…` : cut
}

/**
 * Rows of a feed as items that ads can be made of, and what is wrong with the others; each by its place among all.
 * An item that has a key of another before it is broken: which of the two is meant nobody knows.
 * @param wrong what is known to be wrong with rows, from 0
 */
export function feedItems(
  rows: readonly FeedRow[],
  { fields, template: texts }: Feed,
  wrong: ReadonlyMap<number, string> = NOTHING_WRONG
): { items: { nth: number; item: FeedItem }[]; broken: BrokenItem[] } {
  const items: { nth: number; item: FeedItem }[] = []
  const broken: BrokenItem[] = []
  const seen = new Map<string, number>()
  rows.forEach((row, n) => {
    const said = (role: FeedRole) => (fields[role] === '' ? '' : (row[fields[role]] ?? '').trim())
    const item = itemOf(said, texts, (field) => row[field] ?? '')
    const problem = wrong.get(n) ?? problemOf(item, seen.get(item.key))
    if (problem === null) {
      seen.set(item.key, n + 1)
      items.push({ nth: n + 1, item })
    } else broken.push({ nth: n + 1, key: item.key, says: `${item.key ? `“${item.key.slice(0, 60)}”: ` : ''}${problem}` })
  })
  return { items, broken }
}

const NOTHING_WRONG: ReadonlyMap<number, string> = new Map()

function itemOf(said: (role: FeedRole) => string, texts: Feed['template'], own: (field: string) => string): FeedItem {
  const valueOf = (field: string) => ((FEED_ROLES as readonly string[]).includes(field) ? said(field as FeedRole) : own(field))
  const price = said('price')
  const text = (part: TemplateText) => cutAtWord(filledIn(texts[part], valueOf), TEXTS.native[part].most)
  return {
    key: said('key'),
    title: said('title'),
    link: said('link'),
    picture: said('picture'),
    price,
    amount: amountOf(price),
    isOut: isOutOfStock(said('stock')),
    texts: Object.fromEntries(TEMPLATE_TEXTS.map((part) => [part, text(part)])) as Record<TemplateText, string>
  }
}

/** What keeps an item from being an ad. @param earlier place of another with its key */
function problemOf({ key, title, link, picture, price, amount, texts }: FeedItem, earlier: number | undefined): string | null {
  if (key === '') return 'It has no key.'
  if (letters(key) > KEY_LETTERS) return `Its key has more than ${KEY_LETTERS} letters.`
  if (earlier !== undefined) return `Item ${earlier} has the same key.`
  if (title === '') return 'It has no title.'
  if (link === '') return 'It has no link.'
  if (!isLandingLink(link) || link.length > 1000) return `Its link “${link.slice(0, 80)}” is no web address.`
  if (picture !== '' && !isLandingLink(picture)) return `Its picture “${picture.slice(0, 80)}” is no web address.`
  if (price !== '' && amount === null) return `Its price “${price.slice(0, 40)}” is no number.`
  const empty = TEMPLATE_TEXTS.find((part) => texts[part] === '')
  return empty ? `${TEXTS.native[empty].what} would be empty.` : null
}

/** Whether an item is one of those that ads are wanted of. */
export function isWanted(
  { title, amount, texts }: Pick<FeedItem, 'title' | 'amount' | 'texts'>,
  { words, least, most }: Feed['which']
): boolean {
  const all = `${title} ${Object.values(texts).join(' ')}`.toLowerCase()
  if (
    !words
      .toLowerCase()
      .split(/\s+/)
      .every((word) => all.includes(word))
  )
    return false
  return (least === null || (amount !== null && amount >= least)) && (most === null || (amount !== null && amount <= most))
}

/** What an ad says of an item, apart from its picture's content: another text is another ad. */
export const itemDigest = ({ texts, picture, link }: Pick<FeedItem, 'texts' | 'picture' | 'link'>): string =>
  JSON.stringify([...TEMPLATE_TEXTS.map((part) => texts[part]), picture, link])

/** How an item stands: it can be had, there is nothing left of it, the feed has it no more, or what it says of it makes no ad. */
export const ITEM_STATES = ['there', 'out', 'gone', 'broken'] as const
export type ItemState = (typeof ITEM_STATES)[number]

/** Why an ad of an item is stopped; null where it is not. @param says otherwise than its ad does */
export function stopReason(feed: string, state: ItemState, hasChanged: boolean, changed: Feed['changed']): string | null {
  switch (state) {
    case 'out':
      return `out of stock in “${feed}”`
    case 'gone':
      return `gone from “${feed}”`
    case 'broken':
      return `“${feed}” says of it what makes no ad`
    case 'there':
      return hasChanged && changed === 'stops' ? `“${feed}” says something else of it by now` : null
  }
}
