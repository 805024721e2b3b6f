import { Parser } from 'htmlparser2'
import pLimit from 'p-limit'
import type { LinkLooked, PageRead } from '@tin-harbor/core/contract'
import { NotFetched, fetchPublic } from './public-fetch.js'

const PAGE_TYPES = /^(text\/html|application\/xhtml\+xml)$/
const MOST_BYTES = 2 * 1024 * 1024
const SECONDS = 6
const AT_ONCE = 6
/** Of all links that are read at once: the page that asked is waiting. */
const ALL_SECONDS = 60
const MOST_PICTURES = 12
const MOST_LETTERS = 300

/** What a page says of itself, by the names of its meta elements; the first of each counts. */
interface Said {
  title: string
  metas: Map<string, string>
  icons: { address: string; size: number }[]
  images: string[]
}

function saidIn(html: string): Said {
  const said: Said = { title: '', metas: new Map(), icons: [], images: [] }
  let isTitle = false
  const parser = new Parser(
    {
      onopentag(name, attributes) {
        isTitle = name === 'title' && said.title === ''
        const key = (attributes.property ?? attributes.name ?? '').toLowerCase()
        if (name === 'meta' && key && attributes.content) {
          if (key === 'og:image') said.images.unshift(attributes.content)
          if (!said.metas.has(key)) said.metas.set(key, attributes.content)
        }
        if (name === 'link' && /(^|\s)(apple-touch-)?icon(\s|$)/i.test(attributes.rel ?? '') && attributes.href)
          said.icons.push({ address: attributes.href, size: Number.parseInt(attributes.sizes ?? '0') || 0 })
        if (name === 'img' && attributes.src) said.images.push(attributes.src)
      },
      ontext(text) {
        if (isTitle) said.title += text
      },
      onclosetag(name) {
        if (name === 'title') isTitle = false
      }
    },
    { decodeEntities: true }
  )
  parser.write(html)
  parser.end()
  return said
}

const plain = (text: string | undefined) => (text ?? '').replace(/\s+/g, ' ').trim().slice(0, MOST_LETTERS)
/** Of a title such as "The winter sky | Nightjar" what stands before the name of the site. */
const bare = (title: string, brand: string) => {
  const [first, ...rest] = title.split(/\s+[|–—·-]\s+/)
  return rest.length > 0 && (brand === '' || rest.some((part) => part.toLowerCase() === brand.toLowerCase())) ? first : title
}

/** Reads a landing page once: its title, description, pictures, icon and brand. @throws NotFetched */
async function pageOf(link: string): Promise<Omit<PageRead, 'link' | 'problem'>> {
  const { address, body } = await fetchPublic(link, { types: PAGE_TYPES, mostBytes: MOST_BYTES, seconds: SECONDS })
  const { title, metas, icons, images } = saidIn(body.toString('utf8'))
  const full = (reference: string): string[] => {
    try {
      const url = new URL(reference, address)
      return /^https?:$/.test(url.protocol) ? [url.href] : []
    } catch {
      return []
    }
  }
  const brand = plain(metas.get('og:site_name') ?? metas.get('application-name'))
  return {
    address,
    title: bare(plain(metas.get('og:title') ?? title), brand),
    description: plain(metas.get('og:description') ?? metas.get('description')),
    brand,
    icon: [...icons].sort((a, b) => b.size - a.size).flatMap((icon) => full(icon.address))[0] ?? null,
    pictures: [...new Set(images.flatMap(full))].slice(0, MOST_PICTURES)
  }
}

/** Looks whether a link answers, how fast, and where it ends. */
export async function lookAt(link: string): Promise<LinkLooked> {
  const began = performance.now()
  const milliseconds = () => Math.round(performance.now() - began)
  try {
    const { address, body, hops } = await fetchPublic(link, { types: PAGE_TYPES, mostBytes: MOST_BYTES, seconds: SECONDS })
    const { title, metas } = saidIn(body.toString('utf8'))
    return { link, problem: null, address, hops, title: plain(metas.get('og:title') ?? title), milliseconds: milliseconds() }
  } catch (error) {
    if (!(error instanceof NotFetched)) throw error
    return { link, problem: error.message, address: link, hops: [], title: '', milliseconds: milliseconds() }
  }
}

/** Reads many landing pages, a few at once; what is wrong with one is told of it and keeps none of the others. */
export async function readPages(links: readonly string[]): Promise<PageRead[]> {
  const limit = pLimit(AT_ONCE)
  const until = Date.now() + ALL_SECONDS * 1000
  return Promise.all(
    links.map((link) =>
      limit(async (): Promise<PageRead> => {
        try {
          if (Date.now() > until) throw new NotFetched('The others took all the time there was: read it again.')
          return { link, problem: null, ...(await pageOf(link)) }
        } catch (error) {
          if (!(error instanceof NotFetched)) throw error
          return { link, problem: error.message, address: link, title: '', description: '', brand: '', icon: null, pictures: [] }
        }
      })
    )
  )
}
