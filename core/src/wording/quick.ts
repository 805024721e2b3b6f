import type { LineDraft } from '../buying/index.js'
import { DIMENSIONS, DIMENSION_KINDS, type Dimension } from '../dimensions/index.js'
import { FORMATS, MODELS_OF, type Format } from '../taxonomy/index.js'
import { valuesOf, withValues } from '../targeting/index.js'
import { FORMS, type Edit } from './quick-forms.js'

/** One thing that a typed sentence says, for showing what was understood of it. */
export interface Understood {
  text: string
  says: string
}

export interface QuickReading {
  /** What was understood, written into a draft that says nothing else. */
  apply: (draft: LineDraft) => LineDraft
  understood: Understood[]
  /** Words that say nothing we know: they are shown, never guessed. */
  unknown: string[]
}

/** Words that only join others. */
const FILLERS = new Set([
  'in',
  'on',
  'and',
  'or',
  'for',
  'at',
  'the',
  'of',
  'to',
  'a',
  'bid',
  'buy',
  'spend',
  'with',
  'person',
  'each',
  'from',
  'through',
  'via',
  'over',
  'beside',
  'about',
  'people',
  'aged',
  'during',
  ','
])
/** What values are called, in lower case; a name that two share is the first's. */
const values = new Map<string, { dimension: Dimension; values: readonly string[] }>()
for (const dimension of DIMENSIONS)
  for (const [words, ...called] of DIMENSION_KINDS[dimension].called ?? [])
    if (!values.has(words.toLowerCase())) values.set(words.toLowerCase(), { dimension, values: called })

/** Most words that a name of a place, category or slot takes. */
const LONGEST_NAME = 5

/** A name of a place, device or other value that a text begins with, and the words before it that leave it out; empty for none. */
function namedAt(text: string): { out: string; named: string } {
  const out = /^(?:not|no|without|except|outside) (?:in |on |over )?/i.exec(text)?.[0] ?? ''
  const words = text.slice(out.length).split(' ').slice(0, LONGEST_NAME)
  const named = words
    .map((_, n) => words.slice(0, words.length - n).join(' '))
    .find((one) => values.has(one.toLowerCase()) && !(/^[A-Za-z]{2}$/.test(one) && one !== one.toUpperCase()))
  return named === undefined ? { out: '', named: '' } : { out, named }
}

/**
 * Reads a sentence as traders type it: `native phones ES PT 1.90 cpm 12 a day 3 per day`. Money is `a day` or `in all`, a cap is
 * `per day`. Codes of countries count only in capitals, so that `it` and `in` are words. What follows `not`, `no` or `without` is left
 * out.
 * @param year of days that say none
 */
export function readQuick(text: string, year = 2026): QuickReading {
  const edits: Edit[] = []
  const understood: Understood[] = []
  const unknown: string[] = []
  let rest = text
    .replace(/[;,](?= |$)/g, ' ')
    .replace(/\s+/g, ' ')
    .trim()
  const take = (length: number, says: string | null, edit: Edit | null) => {
    const said = rest.slice(0, length)
    if (edit && says) {
      edits.push(edit)
      understood.push({ text: said, says })
    }
    rest = rest.slice(length).trim()
  }
  while (rest !== '') {
    const form = FORMS.map(({ form: formName, read }) => {
      const found = formName.exec(rest)
      const reading = found ? read(found, year) : null
      return found && reading ? { length: found[0].length, ...reading } : null
    }).find((one) => one !== null)
    if (form) {
      take(form.length, form.says, form.edit)
      continue
    }
    const { out, named } = namedAt(rest)
    const [first] = rest.split(' ')
    const format = FORMATS.find((one) => one === first.toLowerCase())
    if (format && !named.includes(' ')) take(first.length, format, withFormat(format))
    else if (named !== '') {
      const { dimension, values: wordList } = values.get(named.toLowerCase()) as { dimension: Dimension; values: readonly string[] }
      const mode = DIMENSION_KINDS[dimension].mode ?? (out === '' ? 'include' : 'exclude')
      take(out.length + named.length, `${mode === 'exclude' ? 'without ' : ''}${dimension}: ${named}`, (draft) => ({
        ...draft,
        targeting: withValues(draft.targeting, dimension, mode, [...new Set([...valuesOf(draft.targeting, dimension, mode), ...wordList])])
      }))
    } else {
      if (!FILLERS.has(first.toLowerCase())) unknown.push(first)
      take(first.length, null, null)
    }
  }
  return { apply: (draft) => edits.reduce((made, edit) => edit(made), draft), understood, unknown }
}

/** A format brings the first way of paying for it, where the one so far is not offered. */
const withFormat =
  (format: Format): Edit =>
  (draft) => ({
    ...draft,
    format,
    price: { ...draft.price, model: MODELS_OF[format].includes(draft.price.model) ? draft.price.model : MODELS_OF[format][0] }
  })
