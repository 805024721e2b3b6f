import { phraseWords, type AdTerms } from '../buying/index.js'
import { euros } from './long.js'
import { capWords, landingSaid } from './paragraph.js'

/** What an ad has of its own, in words: "weight 3, bids 2.40, 2 a day, in Germany"; empty for nothing. */
export function adTermsWords({ weight, off, bidMicros, caps, targeting, landing, landings }: Omit<AdTerms, 'ad'>): string {
  return [
    off ? 'off' : '',
    weight !== undefined && weight !== 1 ? `weight ${weight}` : '',
    bidMicros == null ? '' : `bids ${euros(bidMicros)}`,
    caps && caps.length > 0 ? capWords(caps) : '',
    ...(targeting?.restrictions ?? []).map(phraseWords),
    landing ? `lands on ${landingSaid(landing)}` : '',
    landings && landings.length > 0 ? `${landings.length === 1 ? 'a page' : `${landings.length} pages`} by country or device` : ''
  ]
    .filter(Boolean)
    .join(', ')
}
