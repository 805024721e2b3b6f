import { finish, step } from '../random/index.js'
import type { AdContent } from '../response/index.js'
import type { CreativeDraft } from './kinds.js'

/** A number for a content: the same text or address is the same number, however it is spaced and capitalised. */
function numberOf(text: string): number {
  let state = SEED
  for (const letter of text.trim().replace(/\s+/g, ' ').toLowerCase()) state = step(state, letter.codePointAt(0) ?? 0)
  return finish(state)
}
const SEED = 0x7a3d

/** The content of an uploaded file. @param sha256 of its bytes, in hexadecimal digits */
export const fileContent = (sha256: string): AdContent => ({ picture: numberOf(sha256) })

/** What people respond to in an ad made of parts. */
export function contentOf({ parts }: Pick<CreativeDraft, 'parts'>): AdContent {
  const { title, headline, longHeadline, text, overlay, tagline, picture, file, markup, link, icon } = parts as Partial<
    Record<string, string | null>
  >
  const said = longHeadline ?? headline ?? title
  const besides = text ?? overlay ?? tagline
  const shown = picture ?? file ?? markup ?? link ?? icon
  return {
    ...(said ? { headline: numberOf(said) } : {}),
    ...(shown ? { picture: numberOf(shown) } : {}),
    ...(besides ? { text: numberOf(besides) } : {})
  }
}
