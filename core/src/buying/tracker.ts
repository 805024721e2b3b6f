import { yup } from '../input/index.js'
import { BRANCHES, EVENT_KINDS } from '../taxonomy/index.js'
import { LIMITS, moneyField, nameField } from './fields.js'

/** How a conversion is told: by our script on the page, by an image on it, or by the advertiser's server (a postback). */
export const TRACKER_REPORTS = ['script', 'image', 'server'] as const
export type TrackerReports = (typeof TRACKER_REPORTS)[number]

/**
 * What on the advertiser's pages is the event: what the page calls by the tracker's name; any page, some of them by their paths, one on
 * which something lies in a cart, or was bought.
 */
export const PAGE_RULES = ['called', 'any', 'these', 'cart', 'purchase'] as const
export type PageRuleKind = (typeof PAGE_RULES)[number]

export interface PageRule {
  which: PageRuleKind
  /** Paths of `these`: whole, or with `*` for anything, such as `/booked*`. */
  paths: string[]
  /** Pages that were opened in the visit, this one with them. */
  leastPages: number
  /** Seconds since the visit began. */
  leastSeconds: number
}
export const CALLED: PageRule = { which: 'called', paths: [], leastPages: 1, leastSeconds: 0 }

const path = yup
  .string()
  .required('A path is needed.')
  .max(200, 'A path has at most 200 letters.')
  .matches(/^\/[^\s?#]*$/, 'A path begins with / and has no parameters, such as /booked or /guide/*.')

const pageRuleSchema: yup.ObjectSchema<PageRule> = yup
  .object({
    which: yup.string().oneOf(PAGE_RULES, 'Not a rule for pages.').required('Which pages?'),
    paths: yup
      .array()
      .of(path)
      .max(20, 'At most 20 paths.')
      .required()
      .test('these', 'Name at least one path.', function (paths) {
        return (this.parent as { which?: string }).which !== 'these' || (paths?.length ?? 0) > 0
      }),
    leastPages: yup
      .number()
      .typeError('Pages are counted.')
      .integer('Pages are whole.')
      .min(1, 'A visit has a page at least.')
      .max(50, 'At most 50 pages.')
      .required(),
    leastSeconds: yup
      .number()
      .typeError('Time is in seconds.')
      .integer('Time is in whole seconds.')
      .min(0, 'Time is at least 0 s.')
      .max(3600, 'Time is at most an hour.')
      .required()
  })
  .noUnknown()

/** A conversion event: of what kind and subject, how it is reported, how long a click or view counts, and what it is worth. */
export const trackerSchema = yup
  .object({
    name: nameField,
    kind: yup
      .string()
      .oneOf(EVENT_KINDS, 'A tracker counts a purchase, a booking, a trial or a request.')
      .required('A tracker counts a kind of event.'),
    subject: yup
      .string()
      .oneOf(
        BRANCHES.map((branch) => branch.name),
        'Not a subject of the market.'
      )
      .nullable()
      .defined(),
    reports: yup.string().oneOf(TRACKER_REPORTS).required(),
    clickHours: yup
      .number()
      .typeError('A window has whole hours.')
      .integer('A window has whole hours.')
      .min(1, 'A window has at least an hour.')
      .max(90 * 24, 'A window has at most 90 days.')
      .required(),
    viewHours: yup
      .number()
      .typeError('A window has whole hours.')
      .integer('A window has whole hours.')
      .min(1, 'A window has at least an hour.')
      .max(30 * 24, 'A view window has at most 30 days.')
      .nullable()
      .defined(),
    valueMicros: moneyField('The value', LIMITS.mostBudgetMicros),
    /** Left out for what the page calls by its name. */
    pages: pageRuleSchema.nullable().optional().default(undefined)
  })
  .noUnknown()
export type TrackerDraft = yup.InferType<typeof trackerSchema>

/** A page of an advertiser's site as our script tells it. */
export interface PageTold {
  path: string
  /** What the page called: a tracker's name, `cart` or `purchase`; empty where it was only opened. */
  called: string
  /** Pages of the visit so far, this one with them. */
  pages: number
  /** Since the visit began. */
  seconds: number
}

/** Whether a pattern of a path, `*` for anything, fits all of it. */
function fits(pattern: string, told: string): boolean {
  const parts = pattern.split('*')
  if (parts.length === 1) return pattern === told
  const [first, last] = [parts[0], parts[parts.length - 1]]
  if (!told.startsWith(first) || !told.endsWith(last) || told.length < first.length + last.length) return false
  let place = first.length
  for (const part of parts.slice(1, -1)) {
    const found = told.indexOf(part, place)
    if (found < 0) return false
    place = found + part.length
  }
  return place <= told.length - last.length
}

/** What keeps a page from being a tracker's event, in words; null where it is one. */
export function pageProblem({ name, pages }: Pick<TrackerDraft, 'name' | 'pages'>, page: PageTold): string | null {
  const { which, paths, leastPages, leastSeconds } = pages ?? CALLED
  const isIt =
    which === 'any' ||
    (which === 'these' && paths.some((pattern) => fits(pattern, page.path))) ||
    (which === 'called' && page.called === name) ||
    (which === 'cart' && page.called === 'cart') ||
    (which === 'purchase' && page.called === 'purchase')
  if (!isIt) return which === 'these' ? 'not one of its pages' : which === 'called' ? `not called “${name}”` : `no ${which}`
  if (page.pages < leastPages) return `page ${page.pages} of the visit; it counts from page ${leastPages} on`
  if (page.seconds < leastSeconds) return `${page.seconds} s into the visit; it counts from ${leastSeconds} s on`
  return null
}
