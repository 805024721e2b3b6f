/** sellers.json, IAB Tech Lab, version 1.0: who an advertising system sells for. */
export interface Seller {
  id: string
  /** Null where it is kept confidential. */
  name: string | null
  domain: string | null
  type: 'PUBLISHER' | 'INTERMEDIARY' | 'BOTH'
  isConfidential: boolean
}

export interface SellersJson {
  sellers: Map<string, Seller>
  problems: string[]
}

const TYPES = ['PUBLISHER', 'INTERMEDIARY', 'BOTH'] as const

/** Reads a file. What cannot be read at all is one problem and no seller. */
export function parseSellersJson(text: string): SellersJson {
  const found: SellersJson = { sellers: new Map(), problems: [] }
  let file: unknown
  try {
    file = JSON.parse(text.replace(/^\uFEFF/, ''))
  } catch {
    found.problems.push('The file is not JSON.')
    return found
  }
  const list = (file as { sellers?: unknown } | null)?.sellers
  if (!Array.isArray(list)) {
    found.problems.push('The file has no list of sellers.')
    return found
  }
  list.forEach((entry: unknown, n) => {
    const problem = (message: string) => found.problems.push(`Entry ${n + 1}: ${message}`)
    const fields = (typeof entry === 'object' && entry !== null ? entry : {}) as Record<string, unknown>
    // Some systems write numbers where the standard has text.
    const id = typeof fields.seller_id === 'number' ? String(fields.seller_id) : fields.seller_id
    const type = typeof fields.seller_type === 'string' ? fields.seller_type.toUpperCase() : ''
    if (typeof id !== 'string' || id === '') return problem('it has no seller_id.')
    if (!(TYPES as readonly string[]).includes(type)) return problem(`seller ${id} is neither publisher nor intermediary.`)
    if (found.sellers.has(id)) return problem(`seller ${id} is there twice; the first one counts.`)
    const isConfidential = fields.is_confidential === 1 || fields.is_confidential === true
    const text = (value: unknown) => (typeof value === 'string' && value !== '' ? value : null)
    if (!isConfidential && (text(fields.name) === null || text(fields.domain) === null))
      problem(`seller ${id} is not confidential but has no name or domain.`)
    found.sellers.set(id, {
      id,
      name: isConfidential ? null : text(fields.name),
      domain: isConfidential ? null : (text(fields.domain)?.toLowerCase() ?? null),
      type: type as Seller['type'],
      isConfidential
    })
  })
  return found
}
