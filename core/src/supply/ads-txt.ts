/**
 * ads.txt and app-ads.txt, IAB Tech Lab, version 1.1: who a publisher lets sell its slots. Parsed line by line; what cannot be
 * read is told and left out, as the standard asks.
 */
export interface AdsTxtRecord {
  line: number
  /** Domain of the advertising system, in small letters. */
  system: string
  /** Account of the seller in that system; upper and lower case differ. */
  seller: string
  relation: 'DIRECT' | 'RESELLER'
  certification: string | null
}

export interface AdsTxtProblem {
  line: number
  text: string
  message: string
}

export interface AdsTxt {
  records: AdsTxtRecord[]
  /** Variables by name in capitals: CONTACT, SUBDOMAIN, INVENTORYPARTNERDOMAIN, OWNERDOMAIN, MANAGERDOMAIN. */
  variables: Record<string, string[]>
  problems: AdsTxtProblem[]
}

const VARIABLES = new Set(['CONTACT', 'SUBDOMAIN', 'INVENTORYPARTNERDOMAIN', 'OWNERDOMAIN', 'MANAGERDOMAIN'])
/** Of these the standard lets a file have one. */
const ONCE = new Set(['OWNERDOMAIN'])
const DOMAIN = /^(?!-)[a-z0-9-]{1,63}(?:\.[a-z0-9-]{1,63})+$/
/** The record by which a publisher says that nobody sells for it. */
const NOBODY = 'placeholder.example.com'

/** Reads a file. Never throws: everything that is not a record is a problem or a comment. */
export function parseAdsTxt(text: string): AdsTxt {
  const found: AdsTxt = { records: [], variables: {}, problems: [] }
  const seen = new Map<string, number>()
  // A byte order mark is no part of the first line.
  text
    .replace(/^\uFEFF/, '')
    .split(/\r\n|\n|\r/)
    .forEach((raw, n) => {
      const line = n + 1
      const content = raw.replace(/#.*$/, '').trim()
      if (content === '') return
      const problem = (message: string) => found.problems.push({ line, text: raw.trim().slice(0, 120), message })
      const variable = /^([A-Za-z]+)\s*=\s*(.*)$/.exec(content)
      if (variable) {
        const name = variable[1].toUpperCase()
        const value = variable[2].trim()
        if (!VARIABLES.has(name)) return problem(`${variable[1]} is not a variable of the standard.`)
        if (value === '') return problem(`${name} says nothing.`)
        if (name.endsWith('DOMAIN') && !DOMAIN.test(value.split(',')[0].trim().toLowerCase())) return problem(`${name} is not a domain.`)
        const values = (found.variables[name] ??= [])
        if (ONCE.has(name) && values.length > 0) return problem(`${name} stands here a second time; the first one counts.`)
        values.push(name.endsWith('DOMAIN') ? value.toLowerCase() : value)
        return
      }
      // What follows a semicolon is an extension, which readers pass over.
      const fields = content
        .split(';')[0]
        .split(',')
        .map((field) => field.trim())
      if (fields.length < 3) return problem('A record has a system, an account and a relation, with commas between them.')
      const [system, seller, relation] = [fields[0].toLowerCase(), fields[1], fields[2].toUpperCase()]
      if (!DOMAIN.test(system)) return problem(`"${fields[0]}" is not a domain.`)
      if (seller === '') return problem('The account is missing.')
      if (relation !== 'DIRECT' && relation !== 'RESELLER') return problem(`The relation is DIRECT or RESELLER, not "${fields[2]}".`)
      if (system === NOBODY) return
      const key = `${system},${seller},${relation}`
      const earlier = seen.get(key)
      if (earlier !== undefined) return problem(`The same record stands in line ${earlier}.`)
      seen.set(key, line)
      found.records.push({ line, system, seller, relation, certification: fields[3] ? fields[3] : null })
    })
  return found
}

/** Whether the file of a root domain sends readers on to a subdomain's own. */
export function namesSubdomain({ variables }: AdsTxt, host: string): boolean {
  return (variables.SUBDOMAIN ?? []).includes(host.toLowerCase())
}
