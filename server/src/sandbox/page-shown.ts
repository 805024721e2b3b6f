import { besideIt } from '../fetching/root-addresses.js'
import { NotFetched, fetchPublic } from '../fetching/public-fetch.js'

/** The page of a pop ad as it begins in the sandbox. */
export const PAGE = 'page.html'
const PAGE_TYPES = /^(text\/html|application\/xhtml\+xml)$/
/** What lies beside a page and is shown with it; scripts of elsewhere stay there. */
const BESIDE = /^(image\/(png|jpeg|gif|webp|svg\+xml)|text\/css|font\/[a-z0-9-]+)$/
const MOST_BYTES = 4 * 1024 * 1024
const SECONDS = 8

/**
 * A landing page, or what lies beside it, fetched for who looks at its ad. Where it does not answer a page of ours says why.
 * @param name path of what is wanted
 */
export async function pageOf(link: string, name: string): Promise<{ type: string; data: Buffer } | null> {
  try {
    if (name === PAGE) {
      const { body } = await fetchPublic(link, { types: PAGE_TYPES, mostBytes: MOST_BYTES, seconds: SECONDS })
      return { type: 'text/html; charset=utf-8', data: Buffer.from(besideIt(body.toString('utf8'))) }
    }
    const { type, body } = await fetchPublic(new URL(`/${name}`, link).href, { types: BESIDE, mostBytes: MOST_BYTES, seconds: SECONDS })
    return { type, data: body }
  } catch (error) {
    if (!(error instanceof NotFetched)) throw error
    if (name !== PAGE) return null
    const said = `${new URL(link).host} is not shown here: ${error.message}`.replace(/[&<>]/g, (letter) => `&#${letter.charCodeAt(0)};`)
    return {
      type: 'text/html; charset=utf-8',
      data: Buffer.from(`<!doctype html><meta charset="utf-8"><p style="font:15px/1.5 sans-serif;padding:24px">${said}</p>`)
    }
  }
}
