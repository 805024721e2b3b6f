import * as told from '@tin-harbor/core/contract'
import { linesOfText, yup } from '@tin-harbor/core/input'
import { advertiserScope } from '../campaigns/routes.js'
import type { Deps } from '../deps.js'
import { takeData } from '../files/library.js'
import { invalidField } from '../http/errors.js'
import { route, type Route } from '../http/registry.js'
import { readPages } from './page.js'
import { NotFetched, fetchPublic } from './public-fetch.js'

/** Of a file that is fetched: it lies in memory until it is taken. */
const MOST_BYTES = 64 * 1024 * 1024
const FILES = /^(video|audio|image)\/[a-z0-9.+-]+$/
const MOST_LINKS = 500
const LINK_LETTERS = 2000

/** Links a line each, without those that are there twice. @throws what is too many */
function linksIn(text: string): string[] {
  const links = [
    ...new Set(
      text
        .split(/\r?\n/)
        .map((line) => line.trim())
        .filter(Boolean)
    )
  ]
  if (links.length === 0) throw invalidField('links', 'No link is there: one a line.')
  if (links.length > MOST_LINKS) throw invalidField('links', `At most ${MOST_LINKS} links are read at once; these are ${links.length}.`)
  return links
}

/** What a file is called whose address this is. */
function nameOf({ pathname, host }: URL): string {
  const last = pathname.split('/').at(-1) ?? ''
  try {
    return decodeURIComponent(last).slice(0, 190) || host
  } catch {
    // An address may hold a per cent sign that begins nothing.
    return last.slice(0, 190)
  }
}

/** Parts from elsewhere: pages that are read, files that are fetched. */
export function fetchingRoutes(deps: Deps): Route[] {
  return [
    route({
      method: 'post',
      path: '/pages/read',
      right: 'draft',
      scope: 'market',
      body: yup
        .object({ links: linesOfText(MOST_LINKS * LINK_LETTERS, 'That is more text than links have.').required('Which links?') })
        .noUnknown(),
      limit: MOST_LINKS * LINK_LETTERS,
      answers: told.list(told.pageRead),
      handle: ({ body }) => readPages(linksIn(body.links))
    }),
    route({
      method: 'post',
      path: '/advertisers/:advertiserId/fetched-files',
      right: 'draft',
      scope: advertiserScope,
      body: yup.object({ address: yup.string().required('From where?').max(2000) }).noUnknown(),
      answers: told.fileTaken,
      handle: async ({ actor, params, body }) => {
        const taking = { types: FILES, mostBytes: MOST_BYTES, seconds: 60 }
        const { body: data, address } = await fetchPublic(body.address.trim(), taking).catch((error: unknown) => {
          throw error instanceof NotFetched ? invalidField('address', error.message) : error
        })
        return takeData(deps, actor, params.advertiserId, { name: nameOf(new URL(address)), data })
      }
    })
  ]
}
