import { yup } from '../input/index.js'
import { findCountry } from '../places/index.js'
import { DEVICE_TYPES, type DeviceType } from '../taxonomy/index.js'

/** A web address people can land on: http or https, a host with a dot, no spaces. */
export function isLandingLink(text: string): boolean {
  return /^https?:\/\/[\p{L}\d-]+(\.[\p{L}\d-]+)+(:\d{1,5})?([/?#]\S*)?$/u.test(text)
}

export const landingField = () =>
  yup
    .string()
    .max(1000, 'A landing link has at most 1,000 letters.')
    .test('link', 'The landing link must be a web address such as https://shop.example/page.', (text) => !text || isLandingLink(text))

export const countryField = () =>
  yup
    .string()
    .required()
    .test('known', 'Not a country code we know.', (code) => findCountry(code ?? '') !== undefined)

/** Where people of some countries on some classes of device land; none named is all of them. */
export interface Landing {
  countries: string[]
  devices: DeviceType[]
  link: string
}
const MOST_LANDINGS = 200

const landingSchema: yup.ObjectSchema<Landing> = yup
  .object({
    countries: yup.array().of(countryField()).max(250, 'At most 250 countries.').required(),
    devices: yup.array().of(yup.string().oneOf(DEVICE_TYPES, 'Not a class of device.').required()).max(DEVICE_TYPES.length).required(),
    link: landingField().required('A landing link is needed.')
  })
  .noUnknown()

/** Links by country and device class, of which no two are for the same. */
export const landingsField = () =>
  yup
    .array()
    .of(landingSchema.required())
    .max(MOST_LANDINGS, `At most ${MOST_LANDINGS} links by country and device.`)
    .test('apart', '', function (all) {
      const seen = new Set<string>()
      for (const { countries, devices } of all ?? []) {
        const whom = JSON.stringify([[...countries].sort(), [...devices].sort()])
        if (seen.has(whom)) return this.createError({ message: `Two links are for the same: ${landingWords({ countries, devices })}.` })
        seen.add(whom)
      }
      return true
    })

const aDevice = (device: DeviceType) => (device === 'TV' ? 'a TV' : `a ${device}`)

/** Whom a link is for, in words. */
export function landingWords({ countries, devices }: Pick<Landing, 'countries' | 'devices'>): string {
  const where = countries.length === 0 ? 'everywhere' : countries.length > 6 ? `${countries.length} countries` : countries.join(', ')
  return devices.length === 0 ? where : `${where} with ${devices.map(aDevice).join(' or ')}`
}
