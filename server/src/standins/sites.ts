import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http'
import type { AddressInfo } from 'node:net'
import { postbackSignature } from '../advertisers/trackers.js'
import { besideIt } from '../fetching/root-addresses.js'
import { scriptTag } from '../hits/site-script.js'
import { now } from '../security/sessions.js'
import { hasStandIn, standIn } from './outside.js'
import { SITE_BOOKS, type Done, type SiteBook, type SitePage } from './site-pages.js'
import { builtInto, type BuiltIn } from './site-trackers.js'

/** The demo's advertisers as sites that a browser can open, with what they were given built in. */
export interface StandInSites {
  /** Where the site of a link is opened; null for a host that none stands in for. */
  addressOf: (link: URL) => string | null
  /** Tells where conversions are told. */
  atHome: (address: string) => void
  close: () => Promise<void>
}

/** A click id as it stands in a parameter, whatever that is called. */
const CLICK = /^[0-9a-z]{1,6}\.[ipt][0-9a-z]+-[0-9a-z]+\.[\w-]{16}$/
const STYLE =
  'body{font:16px/1.5 Georgia,serif;max-width:38em;margin:3em auto;padding:0 1em;color:#223}header{border-bottom:1px solid #aab}button{font:inherit;padding:.4em 1em}'
const ANSWERED_WITHIN_MS = 3000

const clickOf = (request: IncomingMessage, query: URLSearchParams): string =>
  [...query.values()].find((text) => CLICK.test(text)) ?? /(?:^|; )click=([^;]*)/.exec(request.headers.cookie ?? '')?.[1] ?? ''

class Sites {
  home = ''
  private orders = 0

  /** What a page has built in: the script, and an image where it is the event's. */
  private builtIn(trackers: readonly BuiltIn[], book: SiteBook, page: SitePage, done: Done | null, click: string): string {
    const calls = trackers
      .filter(({ reports }) => reports === 'script')
      .map(({ key, name, kind }) => {
        const called = page.calls === 'name' ? (kind === 'request' ? name : null) : (page.calls ?? null)
        const more = done ? { value: done.euros > 0 ? done.euros : undefined, transaction: done.transaction } : {}
        return `${called === null ? '' : `<script>window.tinHarbor=window.tinHarbor||{q:[]};(window.tinHarbor.q||[]).push(${JSON.stringify([called, more])})</script>`}${scriptTag(this.home, key)}`
      })
    const image = done ? trackers.find(({ reports, name }) => reports === 'image' && name === book.event) : undefined
    const said = new URLSearchParams({
      click,
      transaction: done?.transaction ?? '',
      value: done && done.euros > 0 ? String(done.euros) : ''
    })
    return `${calls.join('')}${image ? `<img src="${this.home}/t/${image.key}.gif?${said.toString()}" width="1" height="1" alt="">` : ''}`
  }

  /** The site's own server tells what was done, where it was given a postback. */
  private async tell(trackers: readonly BuiltIn[], { event, transaction, euros }: Done, click: string): Promise<void> {
    const tracker = trackers.find(({ reports, name }) => reports === 'server' && name === event)
    if (!tracker || this.home === '') return
    const fields = { click, transaction, value: euros > 0 ? euros.toFixed(2) : '', currency: 'EUR', at: String(now()) }
    const sign = postbackSignature(tracker.secret, fields)
    await fetch(`${this.home}/p/${tracker.key}`, {
      method: 'POST',
      body: new URLSearchParams({ ...fields, sign }),
      signal: AbortSignal.timeout(ANSWERED_WITHIN_MS)
    })
  }

  /** A page of a site that is walked through; null for any other. */
  async page(host: string, url: URL, request: IncomingMessage): Promise<{ html: string; click: string } | null> {
    const book = (SITE_BOOKS as Partial<Record<string, SiteBook>>)[host]
    if (!book) return null
    const { pathname } = url
    const click = clickOf(request, url.searchParams)
    const trackers = await builtInto(host)
    const transaction = url.searchParams.get('order') ?? ''
    const done =
      pathname === book.thanks && /^[A-Z]-\d{1,9}$/.test(transaction) ? { event: book.event, transaction, euros: book.euros } : null
    const page = done ? book.after(done) : (book.pages as Partial<Record<string, SitePage>>)[pathname]
    if (!page) return null
    const html = `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>${page.title} | ${book.brand}</title>
<link rel="canonical" href="https://${host}${pathname}">
<style>${STYLE}</style></head><body><header>${book.brand}</header><h1>${page.title}</h1>${page.body}
${this.builtIn(trackers, book, page, done, click)}</body></html>`
    return { html: besideIt(html, `/${host}/`).replaceAll(' action="/', ` action="/${host}/`), click }
  }

  /** Where a form that was sent leads, after its event was told. */
  async sent(host: string, url: URL, request: IncomingMessage): Promise<string | null> {
    const book = (SITE_BOOKS as Partial<Record<string, SiteBook>>)[host]
    if (!book) return null
    if (url.pathname !== book.sends) return `/${host}${url.pathname}`
    const transaction = `${book.brand[0]}-${now() % 1_000_000}${++this.orders}`
    await this.tell(await builtInto(host), { event: book.event, transaction, euros: book.euros }, clickOf(request, url.searchParams))
    return `/${host}${book.thanks}?order=${transaction}`
  }
}

async function serve(sites: Sites, request: IncomingMessage, response: ServerResponse): Promise<void> {
  const [, host = '', ...path] = (request.url ?? '').split('/')
  const url = hasStandIn(host) ? new URL(`https://${host}/${path.join('/')}`) : null
  if (url && request.method === 'POST') {
    const location = await sites.sent(host, url, request)
    response.writeHead(location === null ? 404 : 303, location === null ? {} : { location }).end()
    return
  }
  const page = url && (await sites.page(host, url, request))
  if (page) {
    // The click is kept for the pages after the one that was landed on.
    const kept = page.click === '' ? {} : { 'set-cookie': `click=${page.click}; Path=/${host}/; SameSite=Lax` }
    response.writeHead(200, { 'content-type': 'text/html; charset=utf-8', 'cache-control': 'no-store', ...kept }).end(page.html)
    return
  }
  const answer = url && (await standIn(url))
  if (!answer) {
    response.writeHead(404, { 'content-type': 'text/plain; charset=utf-8' }).end('Not here.')
    return
  }
  const { status, type, body } = answer
  // What lies at the root of its site lies below its name here.
  const shown = type === 'text/html' ? Buffer.from(besideIt(body.toString('utf8'), `/${host}/`)) : body
  response.writeHead(status, { 'content-type': type === 'text/html' ? 'text/html; charset=utf-8' : type }).end(shown)
}

/** `GET /HOST/PATH`: what the site of a host answers; a form that is sent there sells, books or begins something. */
export async function startSites(): Promise<StandInSites> {
  const sites = new Sites()
  const server: Server = createServer((request, response) => {
    serve(sites, request, response).catch(() => response.writeHead(500).end())
  })
  await new Promise<void>((resolve, reject) => server.once('error', reject).listen(0, '127.0.0.1', resolve))
  const address = `http://127.0.0.1:${(server.address() as AddressInfo).port}`
  return {
    addressOf: ({ hostname, pathname, search, hash }) =>
      hasStandIn(hostname) ? `${address}/${hostname}${pathname}${search}${hash}` : null,
    atHome: (home) => (sites.home = home),
    close: () => new Promise((resolve) => server.close(() => resolve()))
  }
}
