/** Devices people use. Makers, systems and browsers are made up; versions are plain numbers. */
export const DEVICE_TYPES = ['phone', 'tablet', 'desktop', 'TV', 'console', 'set-top box'] as const
export type DeviceType = (typeof DEVICE_TYPES)[number]
export const DEVICE_NAMES: Readonly<Record<DeviceType, string>> = {
  phone: 'Phones',
  tablet: 'Tablets',
  desktop: 'Desktops',
  TV: 'TVs',
  console: 'Consoles',
  'set-top box': 'Set-top boxes'
}

/** A device type inside a sentence. */
export const deviceWords = (type: DeviceType) => (type === 'TV' ? 'TVs' : DEVICE_NAMES[type].toLowerCase())

export const SYSTEMS = ['Corvid', 'Pomelo', 'Casement', 'Driftwood', 'Hearthvision', 'Playfield'] as const

export const BROWSERS = ['Skiff', 'Lantern', 'Fennec Blue', 'Orrery', 'in an app', 'TV app'] as const

export const MAKERS = [
  'Alcorn',
  'Brightwell',
  'Cendre',
  'Dovetail',
  'Ekman',
  'Farrow',
  'Gossamer',
  'Hillier',
  'Ivory Lane',
  'Kobune',
  'Larkspur',
  'Montane'
] as const

/** Price of a device when new, cheapest first. */
export const PRICE_BANDS = ['low', 'middle', 'high', 'top'] as const

export const RESOLUTIONS = ['720x1280', '1080x2400', '1440x3120', '1536x2048', '1366x768', '1920x1080', '2560x1440', '3840x2160'] as const

export const NEWEST_RELEASE = 2026

export const CONNECTIONS = ['Wi-Fi', 'cellular', 'wired'] as const
