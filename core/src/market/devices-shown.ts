import { DEVICE_TYPES, type DeviceType, type Format } from '../taxonomy/index.js'

export const DEVICE_COUNT = DEVICE_TYPES.length

/** What is shown on each type of device, in hundredths of its opportunities. */
export const FORMAT_BY_DEVICE: Readonly<Record<DeviceType, Readonly<Record<Format, number>>>> = {
  phone: { display: 48, native: 19, video: 11, audio: 11.5, pop: 10.5 },
  tablet: { display: 44, native: 15, video: 13, audio: 20, pop: 8 },
  desktop: { display: 55, native: 16, video: 11, audio: 8.5, pop: 9.5 },
  TV: { display: 0, native: 0, video: 93, audio: 7, pop: 0 },
  console: { display: 25, native: 0, video: 75, audio: 0, pop: 0 },
  'set-top box': { display: 0, native: 0, video: 100, audio: 0, pop: 0 }
}
/** Share of each device type in the mean, by which prices of countries are evened. */
export const DEVICE_SHARES = [0.6, 0.06, 0.27, 0.035, 0.015, 0.02]
