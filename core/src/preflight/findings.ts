import type { Finding, Fix, FixableFinding, LineDraft } from '../buying/index.js'
import type { Dimension } from '../dimensions/index.js'
import { withValues, type Restriction } from '../targeting/index.js'

/** A draft with a fix made to it. */
export function withFix(draft: LineDraft, { edits }: Pick<Fix, 'edits'>): LineDraft {
  return edits.reduce((made, { field, value }) => {
    const targeting = /^targeting\.(.+)\.(include|exclude)$/.exec(field)
    if (targeting)
      return {
        ...made,
        targeting: withValues(made.targeting, targeting[1] as Dimension, targeting[2] as Restriction['mode'], value as string[])
      }
    const path = field.split('.')
    const set = (object: Record<string, unknown>, [name, ...rest]: string[]): Record<string, unknown> => ({
      ...object,
      [name]: rest.length === 0 ? value : set((object[name] ?? {}) as Record<string, unknown>, rest)
    })
    return set(made as unknown as Record<string, unknown>, path) as unknown as LineDraft
  }, draft)
}

const keyOf = ({ field, message }: Finding) => `${field} ${message}`

/**
 * Keeps only fixes that do what they say: the finding goes, nothing that stops comes, and warnings that come are named.
 * @param check the findings of a draft
 */
export function provenFixes(draft: LineDraft, check: (draft: LineDraft) => FixableFinding[]): FixableFinding[] {
  const findings = check(draft)
  const known = new Set(findings.map(keyOf))
  return findings.map((finding) => {
    if (!finding.fix) return finding
    const after = check(withFix(draft, finding.fix))
    const fresh = after.filter((one) => !known.has(keyOf(one)))
    const isGone = !after.some((one) => keyOf(one) === keyOf(finding))
    if (!isGone || fresh.some((one) => one.severity === 'stops')) return { ...finding, fix: null }
    return { ...finding, fix: { ...finding.fix, adds: fresh.map(({ message }) => message) } }
  })
}
