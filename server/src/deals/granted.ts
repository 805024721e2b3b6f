import type { Deal } from '@tin-harbor/core/pricing'
import { invalidField } from '../http/errors.js'
import { GrantedDeal } from './deal-model.js'

/**
 * Granted deals of an organisation by number, in the order asked for.
 * @throws a field error that names those that are not granted
 */
export async function grantedDeals(numbers: readonly number[], organisationId: number): Promise<Deal[]> {
  if (numbers.length === 0) return []
  const rows = new Map((await GrantedDeal.findAll({ where: { id: [...numbers], organisationId } })).map((row) => [row.id, row]))
  const unknown = numbers.filter((number) => !rows.has(number))
  if (unknown.length > 0) throw invalidField('line.buys.deals', `Not a deal that was granted: ${unknown.join(', ')}.`)
  return numbers.map((number) => {
    const { id, kind, priceMicros, placements, untilHour } = rows.get(number) as GrantedDeal
    return { deal: id, kind, price: Math.floor(priceMicros / 1000), placements, untilHour }
  })
}
