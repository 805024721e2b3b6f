import { landingSteps, landingWords, linksOf, valueWords, withTail, withoutLanding, type Landing, type LineDraft } from '../buying/index.js'
import { CLICK_MACRO, linkFindings } from '../creative/index.js'
import { COUNTRIES, placeCountry } from '../places/index.js'
import { valuesOf } from '../targeting/index.js'
import { DEVICE_TYPES } from '../taxonomy/index.js'
import { losesClicks } from './ads.js'
import { fixed, type Findings } from './collecting.js'
import type { PreflightContext } from './context.js'

/** Countries that a line buys in; none where it buys the whole world, or none is chosen. */
const countriesOf = (line: LineDraft) => [
  ...new Set(valuesOf(line.targeting, 'where').flatMap((value) => COUNTRIES[placeCountry(value) ?? -1]?.code ?? []))
]

/** Links of the line itself, each with how it is written where it stands. */
const ownLinks = ({ landing, landings = [] }: LineDraft) => [
  ...landings.map((one, n) => ({
    link: one.link,
    words: `The link for ${landingWords(one)}: `,
    field: 'landings',
    edit: (link: string) => ({ field: 'landings', value: landings.map((other, m): Landing => (m === n ? { ...one, link } : other)) })
  })),
  ...(landing === '' ? [] : [{ link: landing, words: '', field: 'landing', edit: (link: string) => ({ field: 'landing', value: link }) }])
]

/** Where people land: that everybody does, that the links are written as links are, and that a conversion can be told to its click. */
export function landing(line: LineDraft, context: PreflightContext, { stops, warns }: Findings): void {
  const steps = landingSteps(line, null, context.landings)
  if (steps.length === 0) return stops('landing', 'A landing link is needed.')
  const devices = valuesOf(line.targeting, 'device')
  const bare = withoutLanding(steps, countriesOf(line), devices.length > 0 ? devices : DEVICE_TYPES)
  if (bare.length > 0) {
    const [first] = bare
    const whom = `${first.country === null ? 'everywhere else' : valueWords('where', first.country)} on a ${first.device}`
    stops(
      'landing',
      `Nobody knows where people land in ${whom}${bare.length > 1 ? `, nor in ${bare.length - 1} other cases` : ''}: a link for all is missing.`
    )
  }
  const tail = context.campaign.linkTail ?? ''
  for (const { link, words, field, edit } of ownLinks(line)) {
    const own = linkFindings(link, { wantsClicks: false })
    for (const { says, severity, instead } of own)
      (severity === 'stops' ? stops : warns)(field, `${words}${says}`, instead === null ? null : fixed('Write it so', edit(instead)))
    // What only comes about with the tail is looked at where it is written.
    const whole = linkFindings(withTail(link, tail), { wantsClicks: false })
    for (const { says, severity } of whole.filter((one) => !own.some((other) => other.says === one.says)))
      (severity === 'stops' ? stops : warns)(field, `${words}With the tail of its campaign: ${says}`)
    if (losesClicks(link, context))
      warns(
        field,
        `${words === '' ? 'The landing link' : `${words.slice(0, -2)}`} carries no click id: conversions reported by a server cannot be told to their clicks.`,
        fixed('Add the click id', edit(withTail(link, `click=${CLICK_MACRO}`)))
      )
  }
  inherited(steps, line, context, warns)
  strayCountries(line, warns)
}

/** Links that come from the offer or the campaign, where the line has none of its own. */
function inherited(steps: ReturnType<typeof landingSteps>, line: LineDraft, context: PreflightContext, warns: Findings['warns']): void {
  const own = new Set(ownLinks(line).map(({ link }) => link))
  const without = linksOf(steps).filter((link) => !own.has(link) && losesClicks(link, context))
  if (without.length > 0)
    warns(
      'landing',
      `${without.length === 1 ? 'A link' : `${without.length} links`} of its offer or campaign, such as ${without[0]}, ${without.length === 1 ? 'carries' : 'carry'} no click id: conversions reported by a server cannot be told to their clicks.`
    )
}

/** A link for a country is there to be landed on: it is bought there too, or the link is not needed. */
function strayCountries(line: LineDraft, warns: Findings['warns']): void {
  const bought = countriesOf(line)
  if (bought.length === 0) return
  const stray = [...new Set((line.landings ?? []).flatMap(({ countries }) => countries))].filter((code) => !bought.includes(code))
  if (stray.length === 0) return
  const names = stray.slice(0, 3).map((code) => valueWords('where', code))
  warns(
    'landings',
    `There is a link for ${names.join(', ')}${stray.length > 3 ? ` and ${stray.length - 3} more` : ''}, where the line does not buy.`,
    fixed(`Buy in ${names.length < stray.length ? `all ${stray.length}` : names.join(' and ')} too`, {
      field: 'targeting.where.include',
      value: [...valuesOf(line.targeting, 'where'), ...stray]
    })
  )
}
