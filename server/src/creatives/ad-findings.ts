import { filesNamed, partProblem, textFindings, type FileFacts } from '@tin-harbor/core/creative'
import type { PreflightContext } from '@tin-harbor/core/preflight'
import { StoredFile } from '../files/file-model.js'
import { Ad, Creative } from './creative-model.js'
import { MadeCreative } from './made-creative-model.js'

type AdFinding = NonNullable<PreflightContext['adFindings']>[number]
interface Terms {
  name: string
  kind: 'fixed' | 'floor'
}

/** What is known of contents of an advertiser's library. */
async function factsBy(advertiserId: number, hashes: readonly string[]): Promise<Map<string, FileFacts>> {
  const files = await StoredFile.findAll({ where: { advertiserId, sha256: [...hashes] } })
  return new Map(files.map(({ sha256, facts }) => [sha256, facts]))
}

/** What a tag did when it was seen to run: it cannot be read in it. */
function tagFindings({ name: ad, kind, calls }: MadeCreative): AdFinding[] {
  if (kind !== 'markup') return []
  if (calls === null) return [{ ad, says: 'It has not run yet: see it run.', severity: 'stops' }]
  return calls.length === 0 ? [] : [{ ad, says: `It reaches for ${calls.join(', ')}.`, severity: 'warns' }]
}

/** What the specification, and deals that it is bought by, find in a file as a part of an ad. */
function fileFindings(
  ad: Pick<MadeCreative, 'name' | 'kind' | 'parts'>,
  part: string,
  facts: FileFacts,
  deals: readonly Terms[]
): AdFinding[] {
  const says = partProblem(ad, part, facts)
  if (says !== null) return [{ ad: ad.name, says, severity: 'stops' }]
  return deals.flatMap(({ name, kind }): AdFinding[] => {
    const less = partProblem(ad, part, facts, kind)
    return less === null ? [] : [{ ad: ad.name, says: `The deal “${name}” does not take it. ${less}`, severity: 'warns' }]
  })
}

/** What is found in the ads of a line as they are now: terms change, and what was made once is held against them again. */
export async function adFindings(lineId: number, advertiserId: number, deals: readonly Terms[]): Promise<AdFinding[]> {
  const ads = await Ad.findAll({ where: { lineId, removed: false } })
  const [pictures, made] = await Promise.all([
    Creative.findAll({ where: { id: ads.flatMap(({ creativeId }) => creativeId ?? []) } }),
    MadeCreative.findAll({ where: { id: ads.flatMap(({ madeCreativeId }) => madeCreativeId ?? []) } })
  ])
  const shown = [
    ...pictures.map(({ name, slotSize: size, sha256 }) => ({
      name,
      kind: 'picture' as const,
      parts: { size },
      files: [{ part: 'file', sha256 }]
    })),
    ...made.map((one) => ({ name: one.name, kind: one.kind, parts: one.parts, files: filesNamed(one) }))
  ]
  const facts = await factsBy(
    advertiserId,
    shown.flatMap(({ files }) => files.map(({ sha256 }) => sha256))
  )
  return [
    ...made.flatMap((one) => textFindings(one).map((says): AdFinding => ({ ad: one.name, says, severity: 'stops' }))),
    ...shown.flatMap((ad) =>
      ad.files.flatMap(({ part, sha256 }) => {
        const own = facts.get(sha256)
        return own ? fileFindings(ad, part, own, deals) : []
      })
    ),
    ...made.flatMap(tagFindings)
  ]
}
