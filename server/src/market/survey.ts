import { propertyCode } from '@tin-harbor/core/market'
import { SHAPES } from '@tin-harbor/core/taxonomy'
import { COUNTRIES } from '@tin-harbor/core/places'
import type { SurveyQuestion } from '@tin-harbor/core/forecast'
import type { SurveyRowView, SurveyView } from '@tin-harbor/core/contract'
import type { CancelWord } from '../threads/cancel-word.js'
import { GrantedDeal } from '../deals/deal-model.js'
import { Organisation } from '../team/user-model.js'
import { personOf, type Actor } from '../security/sessions.js'
import { formatOf, type Catalogue } from './catalogue.js'
import type { Deps } from '../deps.js'
import { countedOf } from '../advertisers/offers.js'

/** Traffic of a sentence, whole and by groups; deals, properties and placements are named. */
export async function surveyOf(
  { pool, catalogue }: Pick<Deps, 'pool' | 'catalogue'>,
  actor: Actor,
  page: string,
  { offer, ...question }: Omit<SurveyQuestion, 'deals' | 'counted'> & { offer?: number | null },
  word: CancelWord
): Promise<SurveyView> {
  const { zone } = await Organisation.findByPk(actor.organisationId, { rejectOnEmpty: true })
  const deals = question.by.includes('deal')
    ? await GrantedDeal.findAll({ where: { organisationId: actor.organisationId }, order: [['id', 'ASC']] })
    : []
  const found = await pool.survey(
    { person: personOf(actor), page: `${actor.id}-${page}`, word },
    {
      ...question,
      counted: offer == null ? undefined : await countedOf(actor, offer),
      deals: deals.map(({ id, placements }) => ({ deal: id, placements }))
    },
    zone
  )
  const names = new Map(deals.map((deal) => [deal.id, deal.name]))
  return {
    ...found,
    groups: found.groups.map(({ by, rows }) => ({
      by,
      rows: rows.map((row): SurveyRowView =>
        by === 'deal'
          ? { ...row, label: names.get(row.key) ?? row.label }
          : by === 'property' || by === 'placement'
            ? { ...row, ...facts(catalogue, by, row.key) }
            : row
      )
    }))
  }
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
        ? `${domain ? `${domain}, ` : ''}${kind} in ${COUNTRIES[home].code}`
        : `${SHAPES[placements[key].shape]}${domain ? ` on ${domain}` : ''}`
  }
}
