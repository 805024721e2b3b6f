import { DEVICE_TYPES } from '../taxonomy/index.js'

export const DEVICE_COUNT = DEVICE_TYPES.length

/** Share of each device type in the mean, by which prices of countries are evened. */
export const DEVICE_SHARES = [0.6, 0.06, 0.27, 0.035, 0.015, 0.02]
