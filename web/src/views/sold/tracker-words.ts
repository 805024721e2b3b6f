import type { PageRuleKind, TrackerReports } from '@tin-harbor/core/buying'
import type { TrackerView } from '@tin-harbor/core/contract'

export const REPORT_WORDS: Readonly<Record<TrackerReports, string>> = {
  script: 'our script on its pages',
  image: 'an image on its page',
  server: 'its server, as a postback'
}
export const PAGE_WORDS: Readonly<Record<PageRuleKind, string>> = {
  called: 'what the page calls by its name',
  any: 'any page',
  these: 'one of these pages',
  cart: 'something in the cart',
  purchase: 'something bought'
}

/** Hours in the largest whole unit. */
export const windowWords = (hours: number): string =>
  hours % 24 === 0 ? `${hours / 24} ${hours === 24 ? 'day' : 'days'}` : `${hours} ${hours === 1 ? 'hour' : 'hours'}`

/** Which pages are the event. */
export function pagesWords({ pages: { which, paths, leastPages, leastSeconds } }: Pick<TrackerView, 'pages'>): string {
  const what = which === 'these' ? `the page ${paths.join(' or ')}` : PAGE_WORDS[which]
  return [what, ...(leastPages > 1 ? [`from page ${leastPages} on`] : []), ...(leastSeconds > 0 ? [`after ${leastSeconds} s`] : [])].join(
    ', '
  )
}
