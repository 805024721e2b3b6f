import { euros, include } from './scenario.js'

/** Monday 2 February 2026, 00:00 UTC. */
export const FROM = 32 * 24
export const dayOf = (date: number, hour = 0) => FROM + (date - 2) * 24 + hour
export const INES = 'ines@wharfside.example'
export const BEATRIZ = 'beatriz@wharfside.example'

export const daily = (amount: number) => ({ dailyMicros: euros(amount), totalMicros: null })
export const cpm = (bid: number, most: number | null = null) => ({
  model: 'CPM' as const,
  bidMicros: euros(bid),
  maxMicros: most === null ? null : euros(most)
})
export const perDay = (times: number) => [{ times, hours: 24 }]
export const display = (where: string[], device: string, sizes: string[]) => ({
  restrictions: [include('where', ...where), include('device', device), include('size', ...sizes)]
})
export const placed = (where: string[], ...devices: string[]) => ({
  restrictions: [include('where', ...where), ...(devices.length > 0 ? [include('device', ...devices)] : [])]
})

export const DESKTOP_SIZES = ['300x250', '728x90', '300x600']
export const PHONE_SIZES = ['320x50', '300x250', '320x100']
