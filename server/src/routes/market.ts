import * as yup from 'yup'
import { COUNTRIES, findCountry } from '@tin-harbor/core/places'
import { DEVICE_TYPES, FORMATS } from '@tin-harbor/core/taxonomy'
import type { Restriction } from '@tin-harbor/core/targeting'
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

const runSchema = yup.object({
  hours: yup.number().integer('A run takes whole hours.').min(1, 'A run takes at least an hour.').max(24 * 366, 'A run takes at most a year.').required('How many hours?')
}).noUnknown()

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
    route({ method: 'post', path: '/market/run', right: 'live', scope: 'none', body: runSchema, handle: async ({ body }) => runner.start((await readMarket()).hour + body.hours) }),
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
