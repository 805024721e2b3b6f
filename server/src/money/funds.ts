import type { Sequelize } from 'sequelize'
import type { LineDraft } from '@tin-harbor/core/buying'
import { CENT, isLow, lastsHours, plainMoney, type Left } from '@tin-harbor/core/money'
import type { Advertiser } from '../advertisers/advertiser-model.js'
import { readMarket } from '../going-live/publications.js'
import { Organisation } from '../team/user-model.js'
import { balance, balances, spentBetween } from './ledger.js'
import { limitsLeft } from './terms.js'

/** How far an organisation's money goes. */
export interface Funds {
  balanceMicros: number
  /** Spent in the last 24 market hours. */
  lastDayMicros: number
  /** Market hour until which the balance lasts at that pace; null where nothing was spent. */
  lastsUntil: number | null
  /** Whether that is sooner than the organisation wants to be warned. */
  isLow: boolean
}

/** Funds by organisation. @param only of one of them */
export async function fundsBy(sequelize: Sequelize, only: number | null = null): Promise<Map<number, Funds>> {
  const { hour } = await readMarket()
  const known = await balances(sequelize, only)
  const spent = await spentBetween(sequelize, { from: hour - 24, to: hour }, only)
  const organisations = await Organisation.findAll(only === null ? {} : { where: { id: only } })
  return new Map(
    organisations.map(({ id, lowDays }) => {
      const [balanceMicros, lastDayMicros] = [known.get(id) ?? 0, spent.get(id) ?? 0]
      const lasts = lastsHours(balanceMicros, lastDayMicros)
      return [
        id,
        { balanceMicros, lastDayMicros, lastsUntil: lasts === null ? null : hour + lasts, isLow: isLow(balanceMicros, lasts, lowDays) }
      ]
    })
  )
}

/** As pages are told. */
export const fundsView = ({ balanceMicros, lastsUntil, isLow: low }: Funds = NO_FUNDS) => ({ balanceMicros, lastsUntil, isLow: low })
const NO_FUNDS: Funds = { balanceMicros: 0, lastDayMicros: 0, lastsUntil: null, isLow: true }

/** Of one organisation. */
export async function fundsOf(sequelize: Sequelize, organisationId: number): Promise<Funds> {
  const found = (await fundsBy(sequelize, organisationId)).get(organisationId)
  if (!found) throw new Error(`There is no organisation ${organisationId}.`)
  return found
}

/** The balance, or what is left of the advertiser's limit of the month where that is less. */
export async function leftFor(
  sequelize: Sequelize,
  { id, organisationId, limitMicros }: Pick<Advertiser, 'id' | 'organisationId' | 'limitMicros'>,
  hour: number
): Promise<Left> {
  const there: Left = { micros: await balance(sequelize, organisationId), by: 'balance' }
  if (limitMicros === null) return there
  const { zone } = await Organisation.findByPk(organisationId, { rejectOnEmpty: true })
  const [{ leftMicros }] = await limitsLeft(sequelize, [{ id, limitMicros }], zone, hour)
  return leftMicros < there.micros ? { micros: leftMicros, by: 'limit' } : there
}

const LEFT_WORDS: Readonly<Record<Left['by'], string>> = {
  balance: 'the balance is used up',
  limit: 'the limit of its advertiser for this month is used up'
}

/** About what one charge of a line comes to. */
export function chargeOf({ model, bidMicros, maxMicros }: LineDraft['price']): number {
  const bid = bidMicros ?? maxMicros ?? 0
  return model === 'CPM' ? bid / 1000 : bid
}

/** What stops those who buy, in words; null while there is money for one charge. @param chargeMicros the least that one comes to */
export function stoppedWords({ micros, by }: Left, chargeMicros: number): string | null {
  if (micros > 0 && micros >= chargeMicros) return null
  return micros < CENT ? LEFT_WORDS[by] : `${LEFT_WORDS[by]}, but for €${plainMoney(micros)}`
}
