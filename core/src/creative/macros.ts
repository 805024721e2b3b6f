/** What a macro is told by. */
export type MacroSource =
  'the click' | 'the campaign' | 'the line' | 'the ad' | 'the placement' | 'the person' | 'the auction' | 'the page, passed through'

/** A name that is filled in when somebody clicks, or an event is told. */
export interface Macro {
  name: string
  /** What VAST calls it, where it has a name of its own; IAB VAST 4.2 macros, in square brackets. */
  vast: string | null
  what: string
  from: MacroSource
  /** As it could be. */
  example: string
}

const macro = (name: string, what: string, from: MacroSource, example: string, vast: string | null = null): Macro => ({
  name,
  what,
  from,
  example,
  vast
})

/**
 * All macros, of which each is written `${NAME}` in links and tags, and `[NAME]` inside VAST. Names that OpenRTB (2.6, 4.4) or VAST has are
 * theirs; our own objects have names of the same form.
 */
export const MACROS: readonly Macro[] = [
  macro('CLICK_ID', 'the click, by which a conversion is told to it', 'the click', 'c1.7Qb2kX0vS9'),
  macro('TIMESTAMP', 'when, as ISO 8601', 'the click', '2026-03-02T14:05:09Z'),
  macro('CACHEBUSTING', 'a random number of eight digits', 'the click', '48120937'),
  macro('CAMPAIGN_ID', 'number of the campaign', 'the campaign', '12'),
  macro('CAMPAIGN_NAME', 'its name', 'the campaign', 'Winter sky'),
  macro('ADVERTISER_ID', 'number of the advertiser', 'the campaign', '1'),
  macro('LINE_ID', 'number of the line', 'the line', '1008'),
  macro('LINE_NAME', 'its name', 'the line', 'Native, phones, DE'),
  macro('AD_ID', 'number of the ad', 'the ad', '31'),
  macro('CREATIVE_ID', 'number of the creative', 'the ad', '19'),
  macro('CREATIVE_NAME', 'its name', 'the ad', 'Saturn tonight'),
  macro('PLACEMENT_ID', 'number of the placement', 'the placement', 'P-112'),
  macro('PROPERTY', 'domain or store id of the site or app', 'the placement', 'tidings.example', 'DOMAIN'),
  macro('PUBLISHER_ID', 'number of the publisher', 'the placement', '40'),
  macro('SOURCE', 'exchange that sold it', 'the auction', 'Northgate'),
  macro('DEAL_ID', 'number of the deal; empty without one', 'the auction', '3'),
  macro('AUCTION_PRICE', 'what we paid for it, euro CPM', 'the auction', '2.41'),
  macro('CLIENT_PRICE', 'what the client is charged for it, euro CPM', 'the auction', '2.71'),
  macro('AUCTION_CURRENCY', 'currency of the price', 'the auction', 'EUR'),
  macro('COUNTRY', 'ISO 3166 code', 'the person', 'DE'),
  macro('REGION', 'ISO 3166-2 code', 'the person', 'DE-BE'),
  macro('CITY', 'name of the city', 'the person', 'Berlin'),
  macro('DEVICE', 'class of device', 'the person', 'phone'),
  macro('SYSTEM', 'operating system', 'the person', 'Android'),
  macro('BROWSER', 'browser', 'the person', 'Chrome'),
  macro('CARRIER', 'carrier of the connection', 'the person', 'Meridian Mobile'),
  macro('KEYWORD', 'keyword of the page that it was matched by', 'the placement', 'telescope'),
  macro('HOUR', 'hour of the day where the person is', 'the person', '15'),
  macro('GDPR', 'whether the regulation applies, 0 or 1', 'the page, passed through', '1', 'REGULATIONS'),
  macro('GDPR_CONSENT', 'TCF consent string', 'the page, passed through', 'CPXxRfAPXxRfAAfKABENB', 'GDPRCONSENT'),
  macro('GPP', 'GPP string', 'the page, passed through', 'DBAA')
]

const BY_NAME = new Map(
  MACROS.flatMap((one): [string, Macro][] => [[one.name, one], ...(one.vast ? [[one.vast, one] as [string, Macro]] : [])])
)

/** The macro by which a conversion is told to its click. */
export const CLICK_MACRO = '${CLICK_ID}'

/** A link in pieces: what is written as it is, and what is filled in. */
export type LinkPiece = { is: 'text'; text: string } | { is: 'macro'; text: string; macro: Macro | null } | { is: 'unclosed'; text: string }

const PIECE = /\$\{([^{}$]*)\}|\$\{[^}]*$/g

/** The pieces of a link or a tail, in their order; together they are what was written. */
export function piecesOf(written: string): LinkPiece[] {
  const pieces: LinkPiece[] = []
  let end = 0
  for (const found of written.matchAll(PIECE)) {
    if (found.index > end) pieces.push({ is: 'text', text: written.slice(end, found.index) })
    const name = found[1] as string | undefined
    pieces.push(name === undefined ? { is: 'unclosed', text: found[0] } : { is: 'macro', text: found[0], macro: BY_NAME.get(name) ?? null })
    end = found.index + found[0].length
  }
  if (end < written.length) pieces.push({ is: 'text', text: written.slice(end) })
  return pieces
}

/** Whether a link has a macro, known or not. */
export const hasMacro = (written: string, name: string): boolean =>
  piecesOf(written).some((one) => one.is === 'macro' && one.macro?.name === name)

/** Where the host of a link ends: macros are filled in only behind it, so that no value can lead anywhere else. */
function hostEnd(link: string): number {
  const found = /^[a-z][a-z0-9+.-]*:\/\/[^/?#]*/i.exec(link)
  return found ? found[0].length : 0
}

/** A value as it stands in an address; half of a letter, which no address can hold, is left out. */
const encoded = (value: string) => encodeURIComponent(value.replace(/\p{Cs}/gu, ''))

/**
 * A link with its macros filled in: values stand encoded, behind the host alone; what has no value leaves nothing.
 * @param valueOf by the macro's name
 */
export function filledLink(link: string, valueOf: (name: string) => string | null | undefined): string {
  const end = hostEnd(link)
  const fill = (written: string) =>
    piecesOf(written)
      .map((one) => (one.is === 'macro' && one.macro ? encoded(valueOf(one.macro.name) ?? '') : one.text))
      .join('')
  return link.slice(0, end) + fill(link.slice(end))
}

/** The same link with an example of each macro. */
export const exampleLink = (link: string) => filledLink(link, (name) => BY_NAME.get(name)?.example)

/** A link as it stands inside VAST, where macros are in square brackets and have VAST's names where it has some. */
export const vastLink = (link: string): string =>
  piecesOf(link)
    .map((one) => (one.is === 'macro' && one.macro ? `[${one.macro.vast ?? one.macro.name}]` : one.text))
    .join('')

/** Parts of an address, told apart by eye. */
export interface LinkParts {
  address: string
  path: string
  /** Parameters, each as it is written. */
  query: string[]
  fragment: string
}

export function linkParts(link: string): LinkParts {
  const end = hostEnd(link)
  const rest = link.slice(end)
  const [beforeFragment, ...fragment] = rest.split('#')
  const [path, ...query] = beforeFragment.split('?')
  return {
    address: link.slice(0, end),
    path,
    query: query.join('?').split('&').filter(Boolean),
    fragment: fragment.join('#')
  }
}

export interface LinkFinding {
  says: string
  severity: 'stops' | 'warns'
  /** What would be written instead; null where nobody can say. */
  instead: string | null
}

const LETTERS = 1000

/** The known name that somebody may have meant. */
function meant(name: string): string | null {
  const wanted = name.toUpperCase().replace(/[^A-Z]/g, '')
  return MACROS.find((one) => one.name.replace(/[^A-Z]/g, '') === wanted)?.name ?? null
}

/**
 * What is wrong with a link as it will be with its tail.
 * @param wantsClicks whether conversions are to be told to their clicks
 */
export function linkFindings(link: string, { wantsClicks }: { wantsClicks: boolean }): LinkFinding[] {
  const found: LinkFinding[] = []
  const end = hostEnd(link)
  if (/^(javascript|data|vbscript|file):/i.test(link.trim()))
    found.push({ says: 'A link leads to a page, and runs nothing.', severity: 'stops', instead: null })
  if (/^https?:\/\/[^/?#]*@/i.test(link))
    found.push({ says: 'A link with a name or a password in it is not taken.', severity: 'stops', instead: null })
  if (link.length > LETTERS)
    found.push({
      says: `A landing link has at most ${LETTERS} letters; with its tail this has ${link.length}.`,
      severity: 'stops',
      instead: null
    })
  if (piecesOf(link.slice(0, end)).some((one) => one.is !== 'text'))
    found.push({ says: 'No macro stands in the host: whoever fills it in would say where people go.', severity: 'stops', instead: null })
  for (const one of piecesOf(link)) {
    if (one.is === 'unclosed')
      found.push({ says: `“${one.text.slice(0, 30)}” is not closed: a macro ends with }.`, severity: 'stops', instead: null })
    if (one.is === 'macro' && !one.macro) {
      const name = meant(one.text)
      found.push({
        says: `Nothing is known by ${one.text}${name ? `; \${${name}} may be meant` : ''}: it would stand there as it is.`,
        severity: 'warns',
        instead: name ? link.replace(one.text, `\${${name}}`) : null
      })
    }
  }
  const { query } = linkParts(link)
  const keys = query.map((one) => one.split('=')[0])
  for (const key of new Set(keys.filter((one, n) => keys.indexOf(one) !== n)))
    found.push({
      says: `The parameter ${key} is there twice; which of them counts is up to the page.`,
      severity: 'warns',
      instead: withoutParameter(link, key)
    })
  if (wantsClicks && !hasMacro(link, 'CLICK_ID'))
    found.push({
      says: 'The landing link carries no click id: conversions reported by a server cannot be told to their clicks.',
      severity: 'warns',
      instead: null
    })
  return found
}

/** The link with one parameter at its last place alone: what is added later counts. */
function withoutParameter(link: string, key: string): string {
  const { address, path, query, fragment } = linkParts(link)
  const last = query.map((one) => one.split('=')[0]).lastIndexOf(key)
  const kept = query.filter((one, n) => one.split('=')[0] !== key || n === last)
  return `${address}${path}${kept.length > 0 ? `?${kept.join('&')}` : ''}${fragment === '' ? '' : `#${fragment}`}`
}

/** Tails that are usual, by name: the parameters that most analytics read (UTM). */
export const TAIL_PRESETS: Readonly<Record<string, string>> = {
  'UTM by campaign': 'utm_source=tin-harbor&utm_medium=paid&utm_campaign=${CAMPAIGN_ID}',
  'UTM by line and ad': 'utm_source=${SOURCE}&utm_medium=paid&utm_campaign=${CAMPAIGN_ID}&utm_term=${LINE_ID}&utm_content=${AD_ID}',
  'The click alone': 'click=${CLICK_ID}'
}
