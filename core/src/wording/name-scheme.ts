import type { LineDraft } from '../buying/index.js'
import { COUNTRIES } from '../places/index.js'
import { DEVICE_TYPES, FORMATS, deviceWords, type Format } from '../taxonomy/index.js'
import { valuesOf } from '../targeting/index.js'

/** A name that says what a line buys: `Native, phones, ES PT`. */
export function schemeName(draft: Pick<LineDraft, 'format' | 'targeting'>): string {
  const places = valuesOf(draft.targeting, 'where')
    .filter((code) => /^[A-Z]{2}(-|$)/.test(code))
    .map((code) => code)
  const devices = valuesOf(draft.targeting, 'device').map((type) => deviceWords(type as (typeof DEVICE_TYPES)[number]))
  return [
    draft.format.replace(/^./, (letter) => letter.toUpperCase()),
    devices.slice(0, 2).join(' '),
    places.length > 4 ? `${places.length} places` : places.join(' ')
  ]
    .filter(Boolean)
    .join(', ')
}

/** What a name says, read by the scheme, that the line does not target; in words. */
export function nameSaysMore(draft: Pick<LineDraft, 'name' | 'format' | 'targeting'>): string[] {
  const said: { format: Format | null; codes: string[]; devices: string[] } = { format: null, codes: [], devices: [] }
  for (const part of draft.name.split(/[,\s]+/)) {
    if (/^[A-Z]{2}$/.test(part) && COUNTRIES.some(({ code }) => code === part)) said.codes.push(part)
    const device = DEVICE_TYPES.find((type) => deviceWords(type).toLowerCase() === part.toLowerCase())
    if (device) said.devices.push(device)
    said.format ??= FORMATS.find((format) => format === part.toLowerCase()) ?? null
  }
  const places = valuesOf(draft.targeting, 'where').map((code) =>
    code.replace(/^(?:post:|metro:.*, |city:.*, )?([A-Z]{2})(?:[- ].*)?$/, '$1')
  )
  return [
    ...(said.format && said.format !== draft.format ? [said.format] : []),
    ...said.codes.filter((code) => places.length > 0 && !places.includes(code)),
    ...said.devices
      .filter((device) => valuesOf(draft.targeting, 'device').length > 0 && !valuesOf(draft.targeting, 'device').includes(device))
      .map((type) => deviceWords(type as (typeof DEVICE_TYPES)[number]))
  ]
}
