import { propertyCode } from '@tin-harbor/core/market'
import { SHAPES } from '@tin-harbor/core/taxonomy'
import { COUNTRIES } from '@tin-harbor/core/places'
import type { SurveyQuestion } from '@tin-harbor/core/forecast'
import type { SurveyRowView, SurveyView } from '@tin-harbor/core/contract'
import type { CancelWord } from '../threads/cancel-word.js'
import { GrantedDeal } from '../deals/deal-model.js'
import { offersOf } from '../deals/offers.js'
import { Organisation } from '../team/user-model.js'
import { personOf, type Actor } from '../security/sessions.js'
import { formatOf, type Catalogue } from './catalogue.js'
import type { Deps } from '../deps.js'
import { countedOf } from '../advertisers/offers.js'

/** Traffic of a sentence, whole and by groups; deals, properties and placements are named. */
export async function surveyOf(
  { pool, catalogue, dealOffice }: Pick<Deps, 'pool' | 'catalogue' | 'dealOffice'>,
  actor: Actor,
  page: string,
  { offer, ...question }: Omit<SurveyQuestion, 'deals' | 'counted'> & { offer?: number | null },
  word: CancelWord
): Promise<SurveyView> {
  const { zone } = await Organisation.findByPk(actor.organisationId, { rejectOnEmpty: true })
  const deals = question.by.includes('deal') ? await dealsToCount({ dealOffice }, actor) : []
  const found = await pool.survey(
    { person: personOf(actor), page: `${actor.id}-${page}`, word },
    {
      ...question,
      counted: offer == null ? undefined : await countedOf(actor, offer),
      deals: deals.map(({ placements }, deal) => ({ deal, placements }))
    },
    zone
  )
  return {
    ...found,
    groups: found.groups.map(({ by, rows }) => ({
      by,
      rows: rows.map((row): SurveyRowView =>
        by === 'deal'
          ? { ...row, ...deals[row.key].told }
          : by === 'property' || by === 'placement'
            ? { ...row, ...facts(catalogue, by, row.key) }
            : row
      )
    }))
  }
}

/** Deals that stand, by their numbers, and offers, by numbers under 0. */
async function dealsToCount(deps: Pick<Deps, 'dealOffice'>, { organisationId }: Actor) {
  const granted = await GrantedDeal.findAll({ where: { organisationId }, order: [['id', 'ASC']] })
  return [
    ...granted.map(({ id, name, placements }) => ({ placements, told: { key: id, label: name, code: String(id), about: `deal ${id}` } })),
    ...(await offersOf(deps)).map(({ code, name, placements }, n) => ({
      placements,
      told: { key: -1 - n, label: name, code, about: `offered, ${code}` }
    }))
  ]
}

function facts(
  { inventory: { properties, placements, publishers } }: Catalogue,
  by: 'property' | 'placement',
  key: number
): Pick<SurveyRowView, 'about' | 'publisher' | 'property' | 'formats'> {
  const index = by === 'property' ? key : placements[key].property
  const { domain, publisher, class: kind, home, anonymous } = properties[index]
  const own = by === 'property' ? placements.filter((placement) => placement.property === key).map((placement) => placement.index) : [key]
  return {
    property: propertyCode(properties[index]),
    ...(anonymous ? {} : { publisher: publishers[publisher].name }),
    formats: [...new Set(own.map((placement) => formatOf({ placements }, placement)))].join(', '),
    about:
      by === 'property'
        ? `${kind} in ${COUNTRIES[home].code}${domain ? `, ${domain}` : ''}`
        : `${SHAPES[placements[key].shape]}${domain ? ` on ${domain}` : ''}`
  }
}
