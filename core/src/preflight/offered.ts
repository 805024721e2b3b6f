import type { LineDraft, Offer } from '../buying/index.js'
import { COUNTRIES, placeCountry, placeKind } from '../places/index.js'
import { valuesOf } from '../targeting/index.js'
import { fixed, type Findings } from './collecting.js'
import type { PreflightContext } from './context.js'
import { sayValues, without } from './values.js'

type Terms = Offer['terms']
/** A dimension that offers have terms of. */
interface Termed {
  dimension: 'where' | 'device' | 'system' | 'connection'
  list: 'countries' | 'devices' | 'systems' | 'connections'
  /** What of a value the terms name; null where they say nothing of it. */
  named: (value: string) => string | null
}
const TERMED: readonly Termed[] = [
  {
    dimension: 'where',
    list: 'countries',
    named: (value) => (placeKind(value) === 'radius' ? null : (COUNTRIES[placeCountry(value) ?? -1]?.code ?? value))
  },
  { dimension: 'device', list: 'devices', named: (value) => value },
  { dimension: 'system', list: 'systems', named: (value) => value.split('>=')[0] },
  { dimension: 'connection', list: 'connections', named: (value) => value }
]

/** What is bought where no offer pays for it: chosen, or not left out. */
export function offered(line: LineDraft, { terms = [] }: PreflightContext, { warns }: Findings): void {
  if (terms.length === 0) return
  for (const { dimension, list, named } of TERMED) {
    const pays = (value: string) => terms.some((one) => one[list].length === 0 || one[list].includes(value as never))
    const all = valuesOf(line.targeting, dimension)
    const unpaid = all.filter((value) => {
      const said = named(value)
      return said !== null && !pays(said)
    })
    const field = `targeting.${dimension}.include`
    if (unpaid.length > 0)
      warns(
        `targeting.${dimension}`,
        `No offer of the advertiser pays for ${sayValues(dimension, unpaid)}.`,
        unpaid.length === all.length ? null : fixed('Keep what is paid for', { field, value: without(all, unpaid) })
      )
    // Where nobody chose a place the line does not go live at all.
    const only = terms.every((one) => one[list].length > 0) ? [...new Set(terms.flatMap((one): readonly string[] => one[list]))] : []
    if (dimension !== 'where' && all.length === 0 && only.length > 0)
      warns(
        `targeting.${dimension}`,
        `Offers of the advertiser pay for ${sayValues(dimension, only)} alone, and the line buys all.`,
        fixed('Buy what is paid for', { field, value: only })
      )
  }
  if (terms.every(({ hours }) => hours?.some((one) => one === 0)) && isOpenOutside(line, terms))
    warns('hours', 'It is open in hours of the week for which no offer of the advertiser pays.')
}

/** Whether a line buys in an hour of the week that nobody pays for; hours by the viewer's clock are taken as they are. */
const isOpenOutside = ({ hours }: LineDraft, terms: readonly Terms[]): boolean =>
  Array.from({ length: 168 }, (_, hour) => hour).some(
    (hour) => (hours?.perMille[hour] ?? 1000) > 0 && terms.every((one) => one.hours?.[hour] === 0)
  )
