import { inCapitals, repeatedMarks, type CreativeKind } from '../creative/index.js'

/** What the reviewer is told of an ad, and looks at. */
export interface Reviewed {
  kind: CreativeKind
  name: string
  advertiser: string
  /** Host of the advertiser's site. */
  domain: string
  /** What is said in it, part by part. */
  texts: readonly { part: string; text: string }[]
  /** What does not fit the slot that it is made for, in words. */
  outside: readonly string[]
  /** Contrast of the lightest and the darkest hundredth of what is seen, 1 to 21, by the part that is a picture. */
  tones: readonly { part: string; contrast: number }[]
  /** Where people land: all links that somebody may follow, macros filled in with examples. */
  links: readonly string[]
  /** Subject of what is sold; null where nobody says. */
  about: string | null
  /** What the trader wrote to whoever reviews, and answered to what was refused. */
  note: string
}

/** What a link answered when it was looked at. */
export interface LinkSeen {
  link: string
  /** Why it does not answer; null where it does. */
  problem: string | null
  /** Where it ended. */
  address: string
  /** What the page calls itself. */
  title: string
  milliseconds: number
}

/** A rule that an ad breaks, what was seen, and why it matters. */
export interface ReviewFinding {
  rule: ReviewRule
  value: string
  reason: string
}

/** Claims that nobody may make without a source. */
const CLAIMS =
  /\b(guarantee[ds]?|number one|no\. ?1|world'?s (best|first|leading)|the best in the world|risk[- ]free|without any risk|clinically proven|scientifically proven|proven by science|miracle|cures?|get rich|lose weight)\b|\b100 ?%/i
/** What is not advertised here, by what names it. */
const BLOCKED: Readonly<Record<string, RegExp>> = {
  tobacco: /\b(cigarettes?|cigars?|tobacco|vap(e|es|ing)|nicotine)\b/i,
  gambling: /\b(casinos?|betting|poker|jackpots?|slot machines?)\b/i,
  weapons: /\b(guns?|rifles?|ammunition|firearms?)\b/i,
  adult: /\b(porn(ography)?|escorts?|xxx)\b/i,
  loans: /\b(payday loans?|instant credit|quick cash)\b/i
}
const SOURCE = /https?:\/\/\S+\.\S+/i
/** Below it nothing that is written on a picture is read: least contrast of large letters (WCAG 2.2, 1.4.3). */
const LEAST_CONTRAST = 3
const SLOWEST_MS = 5000
/** Kinds whose whole message is text, so that it must say whose it is. */
const SAYS_WHOSE: ReadonlySet<CreativeKind> = new Set(['native', 'notification'])

const wordsOf = (text: string) => text.toLowerCase().match(/[\p{L}\d]{3,}/gu) ?? []
/** A word of the advertiser's name, or its domain, stands in a text. */
function namesBrand({ advertiser, domain }: Reviewed, text: string): boolean {
  const own = new Set([...wordsOf(advertiser), ...wordsOf(domain.replace(/\.[a-z]+$/, ''))])
  return wordsOf(text).some((word) => own.has(word))
}
const quoted = (text: string) => `“${text.length > 60 ? `${text.slice(0, 59)}…` : text}”`
const called = (part: string) => part.replace(/[A-Z]/g, (letter) => ` ${letter.toLowerCase()}`)

interface Rule {
  /** As it is written for everybody to read. */
  says: string
  /** Why it is one. */
  reason: string
  /** What breaks it, each in words; nothing where nothing does. */
  seen: (reviewed: Reviewed, links: readonly LinkSeen[]) => string[]
}
const inTexts = ({ texts }: Reviewed, find: (text: string) => string | null) =>
  texts.flatMap(({ part, text }) => {
    const found = find(text)
    return found === null ? [] : [`${found} in the ${called(part)}`]
  })
/** The host of an address without what stands before its last two names. */
const siteOf = (address: string) => (URL.canParse(address) ? new URL(address).hostname.split('.').slice(-2).join('.') : '')

const RULES = {
  capitals: {
    says: 'A text is not written in capitals.',
    reason: 'It reads as if somebody shouted.',
    seen: (ad) => inTexts(ad, (text) => (inCapitals(text) ? quoted(text) : null))
  },
  punctuation: {
    says: 'Marks such as ! and ? stand once, and one exclamation mark is enough for a text.',
    reason: 'It is there to be loud, and says nothing.',
    seen: (ad) =>
      inTexts(ad, (text) => {
        const marks = repeatedMarks(text)
        return marks ?? ((text.match(/!/g) ?? []).length > 1 ? quoted(text) : null)
      })
  },
  brand: {
    says: 'An ad of text says whose it is.',
    reason: 'Nobody can tell who speaks.',
    seen: (ad) => {
      if (!SAYS_WHOSE.has(ad.kind)) return []
      const brand = ad.texts.find(({ part }) => part === 'brand')?.text
      if (brand !== undefined) return namesBrand(ad, brand) ? [] : [`${quoted(brand)} as the brand`]
      return ad.texts.some(({ text }) => namesBrand(ad, text)) ? [] : [`no word of ${ad.advertiser} in any text`]
    }
  },
  claims: {
    says: 'What is claimed beyond doubt, as guaranteed, proven or the best there is, has a source, which the note to the reviewer names by its address.',
    reason: 'It is promised, and nobody says who found it out.',
    seen: (ad) =>
      SOURCE.test(ad.note)
        ? []
        : inTexts(ad, (text) => {
            const found = CLAIMS.exec(text)
            return found ? quoted(found[0]) : null
          })
  },
  link: {
    says: 'Each link answers with a page of the advertiser within five seconds.',
    reason: 'Whoever clicks must find what was shown.',
    seen: ({ domain }, links) =>
      links.flatMap(({ link, problem, address, milliseconds }) => {
        if (problem !== null) return [`${link}: ${problem.replace(/\.$/, '')}`]
        if (milliseconds > SLOWEST_MS) return [`${link} took ${(milliseconds / 1000).toFixed(1)} s`]
        return siteOf(address) === siteOf(`https://${domain}`) ? [] : [`${link} ends at ${siteOf(address)}, not at ${domain}`]
      })
  },
  contrast: {
    says: 'The light and the dark parts of a picture differ by at least 3 : 1.',
    reason: 'What is written on it could not be read.',
    seen: ({ tones }) =>
      tones.flatMap(({ part, contrast }) => (contrast < LEAST_CONTRAST ? [`${contrast.toFixed(1)} : 1 in the ${called(part)}`] : []))
  },
  specification: {
    says: 'Files and texts fit what their slot takes.',
    reason: 'A player or a page would cut it, or show nothing.',
    seen: ({ outside }) => [...outside]
  },
  category: {
    says: 'Tobacco, gambling, weapons, adult offers and instant loans are not advertised.',
    reason: 'No site of this market takes it.',
    seen: (ad, links) =>
      Object.entries(BLOCKED).flatMap(([what, words]) => {
        const found = inTexts(ad, (text) => {
          const word = words.exec(text)
          return word ? `${quoted(word[0])}, of ${what},` : null
        })
        const pages = links.flatMap(({ title }) => {
          const word = words.exec(title)
          return word ? [`${quoted(word[0])}, of ${what}, in the title of the page`] : []
        })
        return [...found, ...pages]
      })
  }
} as const satisfies Record<string, Rule>

export type ReviewRule = keyof typeof RULES | 'publisher'
/** The rules as they are written, in the order in which they are looked at. */
export const WRITTEN_RULES: readonly { rule: ReviewRule; says: string; reason: string }[] = [
  ...(Object.keys(RULES) as (keyof typeof RULES)[]).map((rule) => ({ rule, says: RULES[rule].says, reason: RULES[rule].reason })),
  {
    rule: 'publisher',
    says: 'Publishers of deals look at each ad themselves, by the same rules, and some take none of a subject.',
    reason: 'It is their site.'
  }
]

/** Everything that breaks a rule. Reviewer and preflight both ask here, so that no refusal is a surprise. */
export function reviewFindings(reviewed: Reviewed, links: readonly LinkSeen[]): ReviewFinding[] {
  return (Object.keys(RULES) as (keyof typeof RULES)[]).flatMap((rule) => {
    const { seen, reason }: Rule = RULES[rule]
    return seen(reviewed, links).map((value) => ({ rule, value, reason }))
  })
}

/** What a publisher of deals sees beside it, who takes none of some subjects. @param refused names of them */
export function subjectFindings({ about }: Reviewed, refused: readonly string[]): ReviewFinding[] {
  if (about === null || !refused.includes(about)) return []
  return [{ rule: 'publisher', value: about, reason: 'The publisher takes no advertising for it.' }]
}

/** Everything that a publisher of deals refuses an ad for. */
export const publisherFindings = (reviewed: Reviewed, links: readonly LinkSeen[], refused: readonly string[]): ReviewFinding[] => [
  ...reviewFindings(reviewed, links),
  ...subjectFindings(reviewed, refused)
]
