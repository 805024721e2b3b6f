import * as yup from 'yup'
import { COUNTRIES, findCountry } from '@tin-harbor/core/places'
import { DEVICE_TYPES, FORMATS } from '@tin-harbor/core/taxonomy'
import type { Restriction } from '@tin-harbor/core/targeting'
import { invalidField } from '../errors.js'
import { balance } from '../services/opening.js'
import type { Deps } from '../services/deps.js'
import { readMarket } from '../services/publications.js'
import { SENT, route, type Route } from './registry.js'

const propertiesSchema = yup.object({
  page: yup.string().matches(/^[\w-]{4,60}$/, 'The page needs a name.').required(),
  country: yup.string().test('known', 'Not a country we know.', (code) => code === undefined || code === '' || findCountry(code) !== undefined),
  device: yup.string().oneOf([...DEVICE_TYPES, ''], 'Not a device type we know.'),
  format: yup.string().oneOf(FORMATS, 'Not a format we know.').required()
}).noUnknown()

const MOST_HOURS = 24 * 366
const runSchema = yup.object({
  hours: yup.number().integer('A run takes whole hours.').min(1, 'A run takes at least an hour.').max(MOST_HOURS, 'A run takes at most a year.'),
  /** Market hour to run to, in place of how many. */
  to: yup.number().integer('A moment is a whole market hour.').min(0).max(1e6),
  /** Seconds an hour takes when the market is played; left out for as fast as it can. */
  secondsAnHour: yup.number().min(0.2, 'An hour takes at least 0.2 s.').max(60, 'An hour takes at most 60 s.')
}).noUnknown().test('one', '', function ({ hours, to }) {
  return (hours === undefined) !== (to === undefined) || this.createError({ path: 'hours', message: hours === undefined ? 'How many hours, or to which?' : 'Either so many hours or to a moment.' })
})

export function marketRoutes({ sequelize, pool, runner, tapes, catalogue, events }: Deps): Route[] {
  return [
    route({
      method: 'get', path: '/market', right: 'read', scope: 'none',
      handle: async () => ({
        hour: (await readMarket()).hour, balanceMicros: await balance(sequelize), run: runner.status,
        tape: tapes.current ? { firstDay: tapes.current.head.firstDay } : null
      })
    }),
    route({
      method: 'get', path: '/market/properties', right: 'read', scope: 'none', query: propertiesSchema,
      handle: async ({ actor, query, res }) => {
        const restrictions: Restriction[] = []
        if (query.country) restrictions.push({ dimension: 'where', mode: 'include', values: [query.country] })
        if (query.device) restrictions.push({ dimension: 'device', mode: 'include', values: [query.device] })
        const rows = await pool.properties(`${actor.id}-${query.page}`, { restrictions }, query.format, (word) => res.on('close', () => word.set()))
        const { properties, publishers } = catalogue.inventory
        return rows.map((row) => {
          const { name, domain, publisher, class: kind, home } = properties[row.property]
          return { ...row, name, domain, publisher: publishers[publisher].name, class: kind, home: COUNTRIES[home].code }
        })
      }
    }),
    route({ method: 'post', path: '/market/run', right: 'live', scope: 'none', body: runSchema, handle: async ({ body }) => {
      const { hour } = await readMarket()
      const target = body.to ?? hour + (body.hours ?? 0)
      if (target <= hour) throw invalidField('to', 'The clock is past that moment already.')
      if (target > hour + MOST_HOURS) throw invalidField('to', 'A run takes at most a year.')
      await runner.start(target, (body.secondsAnHour ?? 0) * 1000)
    } }),
    route({ method: 'delete', path: '/market/run', right: 'live', scope: 'none', handle: () => runner.stop() }),
    route({
      method: 'get', path: '/events', right: 'read', scope: 'none',
      handle: ({ res }) => {
        events.open(res)
        return Promise.resolve(SENT)
      }
    })
  ]
}
