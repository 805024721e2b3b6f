import { Op } from 'sequelize'
import { SPECIFICATION, filesNamed, findingsOf, partProblem, textFindings, type FileFacts } from '@tin-harbor/core/creative'
import type { Shape } from '@tin-harbor/core/taxonomy'
import { StoredFile } from '../files/file-model.js'
import { Ad, Creative } from './creative-model.js'
import { MadeCreative } from './made-creative-model.js'

/** What an ad is held back by. */
export interface AdFinding {
  ad: string
  says: string
  /** Of a deal alone; other slots take it. */
  deal?: string
}

/** What is known of contents of an advertiser's library. */
async function factsBy(advertiserId: number, hashes: readonly string[]): Promise<Map<string, FileFacts>> {
  const files = await StoredFile.findAll({ where: { advertiserId, sha256: { [Op.in]: [...hashes] } } })
  return new Map(files.map(({ sha256, facts }) => [sha256, facts]))
}

/** What the specification finds in the ads of a line as they are now: terms change, and what was made once is held against them again. */
export async function adFindings(
  lineId: number,
  advertiserId: number,
  deals: readonly { name: string; kind: 'fixed' | 'floor' }[]
): Promise<AdFinding[]> {
  const ads = await Ad.findAll({ where: { lineId, removed: false } })
  const pictures = await Creative.findAll({ where: { id: ads.flatMap(({ creativeId }) => creativeId ?? []) } })
  const made = await MadeCreative.findAll({ where: { id: ads.flatMap(({ madeCreativeId }) => madeCreativeId ?? []) } })
  const named = made.flatMap((one) => filesNamed(one).map(({ sha256 }) => sha256))
  const facts = await factsBy(advertiserId, [...named, ...pictures.map(({ sha256 }) => sha256)])
  const found: AdFinding[] = []
  for (const { name: ad, sha256, slotSize } of pictures) {
    const own = facts.get(sha256)
    const [one] = SPECIFICATION[slotSize as Shape]
    for (const { is, allowed } of own ? findingsOf(own, one) : []) found.push({ ad, says: `It is ${is}; allowed is ${allowed}.` })
  }
  for (const one of made) {
    for (const says of textFindings(one)) found.push({ ad: one.name, says })
    for (const { part, sha256 } of filesNamed(one)) {
      const own = facts.get(sha256)
      const says = own ? partProblem(one, part, own) : null
      if (says !== null) found.push({ ad: one.name, says })
      for (const { name: deal, kind } of own && says === null ? deals : []) {
        const less = partProblem(one, part, own as FileFacts, kind)
        if (less !== null) found.push({ ad: one.name, says: less, deal })
      }
    }
    if (one.calls && one.calls.length > 0) found.push({ ad: one.name, says: `It reaches for ${one.calls.join(', ')}.` })
  }
  return found
}
