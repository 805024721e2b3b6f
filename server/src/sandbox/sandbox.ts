import express, { type Request, type Response, type Router } from 'express'
import { LRUCache } from 'lru-cache'
import { yup } from '@tin-harbor/core/input'
import { MadeCreative } from '../creatives/made-creative-model.js'
import type { ContentStore } from '../files/content-store.js'
import { fileOfBanner } from '../files/banner.js'
import { StoredFile } from '../files/file-model.js'
import { pageOf } from './page-shown.js'
import { sandboxToken, shownBy, type Shown } from './tokens.js'

/** Runs whose tries are remembered. */
const REMEMBERED = 500
/** Hosts of one run that are told; what tries more is not told better by more. */
const MOST_HOSTS = 40
const REPORT_BYTES = '16kb'
/** What a page names in the words of an address, within the sandbox alone. */
const HOST = /^[a-z0-9.:[\]-]+$/i

const reportSchema = yup.object({
  'csp-report': yup.object({ 'blocked-uri': yup.string().max(4000).required() }).required()
})

/** Host that something reaches for; null for what stays in the page, such as data or a script in a line. */
export function hostOf(address: string): string | null {
  try {
    const { protocol, host } = new URL(address)
    return /^(https?|wss?):$/.test(protocol) && host !== '' ? host : null
  } catch {
    return null
  }
}

/** What an address that was refused reaches for, in words: a host, or something of ours. */
function triedIn(address: string, own: string, token: string): string | null {
  const host = hostOf(address)
  if (host !== own) return host
  // Banners show what lies in their zip; they ask for none of it by a script.
  const path = new URL(address).pathname
  const lies = `/sandbox/${token}/`
  return path.startsWith(lies) ? `its own ${path.slice(lies.length)} by a script` : 'this server'
}

/**
 * The only place where what others made runs: under a name that nobody guesses and that is over after an hour, in a frame without an
 * origin, without cookies, and without a way out. What it tries is refused by the browser, which says so here.
 */
export class Sandbox {
  private readonly tries = new LRUCache<string, Set<string>>({ max: REMEMBERED })

  constructor(private readonly store: ContentStore) {}

  /** Where something is seen. @param entry the page that it begins with */
  open(shown: Shown, entry: string): { address: string; until: number } {
    const { token, until } = sandboxToken(shown)
    return { address: `/sandbox/${token}/${entry.split('/').map(encodeURIComponent).join('/')}`, until }
  }

  /** Hosts that it tried to reach where it ran under an address; null where it was never shown there, or that is forgotten. */
  triedAt(address: string, { kind, id }: Shown): string[] | null {
    const token = /^\/sandbox\/([^/]+)\//.exec(address)?.[1] ?? ''
    const shown = shownBy(token)
    const tried = this.tries.get(token)
    return tried && shown?.kind === kind && shown.id === id ? [...tried] : null
  }

  routes(): Router {
    const router = express.Router()
    const reports = express.json({ type: ['application/csp-report', 'application/reports+json', 'application/json'], limit: REPORT_BYTES })
    router.post('/:token/report', reports, (req, res) => this.note(req, res))
    router.get('/:token/{*path}', (req, res) => this.serve(req, res))
    router.use((_req, res) => res.status(404).end())
    return router
  }

  private note(req: Request<{ token: string }>, res: Response): void {
    const { token } = req.params
    const hosts = this.tries.get(token)
    if (!shownBy(token) || !hosts || !reportSchema.isValidSync(req.body)) {
      res.status(404).end()
      return
    }
    const tried = triedIn(reportSchema.cast(req.body)['csp-report']['blocked-uri'], req.get('host') ?? '', token)
    if (tried !== null && hosts.size < MOST_HOSTS) hosts.add(tried)
    res.status(204).end()
  }

  private async serve(req: Request<{ token: string; path?: string[] }>, res: Response): Promise<void> {
    const { token, path = [] } = req.params
    const shown = shownBy(token)
    const found = shown && (await this.contentOf(shown, path.join('/')))
    const isPage = found?.type.startsWith('text/html') === true
    const wanted = String(req.headers['sec-fetch-dest'] ?? '')
    // A page is one only in a frame; nothing here is opened by itself, as if it were of ours.
    if (!found || (isPage ? wanted !== 'iframe' : /^(document|embed|object|frame)$/.test(wanted))) {
      res.status(found ? 403 : 404).end()
      return
    }
    // From now on it may try something; an address that nobody looked at tells nothing.
    if (isPage && !this.tries.has(token)) this.tries.set(token, new Set())
    res.set({
      'content-security-policy': policyOf(req.get('host') ?? '', token),
      'content-type': found.type,
      'cache-control': 'private, no-store',
      // Its own files are another origin's to a page without one.
      'cross-origin-resource-policy': 'cross-origin',
      'access-control-allow-origin': 'null',
      'x-content-type-options': 'nosniff',
      'x-dns-prefetch-control': 'off',
      'referrer-policy': 'no-referrer'
    })
    res.removeHeader('x-frame-options')
    res.send(found.data)
  }

  private async contentOf({ kind, id }: Shown, name: string): Promise<{ type: string; data: Buffer } | null> {
    if (kind === 'creative') {
      const made = await MadeCreative.findByPk(id)
      const { markup, link } = (made?.parts ?? {}) as { markup?: string; link?: string }
      if (link !== undefined) return pageOf(link, name)
      if (markup === undefined || name !== 'tag.html') return null
      return {
        type: 'text/html; charset=utf-8',
        data: Buffer.from(`<!doctype html><meta charset="utf-8"><body style="margin:0">${markup}`)
      }
    }
    const file = await StoredFile.findByPk(id)
    return file?.medium === 'banner' ? fileOfBanner(this.store.pathOf(file.sha256), name) : null
  }
}

/** What a page may: run, and show what lies beside it. */
function policyOf(host: string, token: string): string {
  const own = HOST.test(host) ? `http://${host}/sandbox/${token}/ https://${host}/sandbox/${token}/` : "'none'"
  return [
    'sandbox allow-scripts',
    "default-src 'none'",
    `script-src ${own} 'unsafe-inline'`,
    `style-src ${own} 'unsafe-inline'`,
    `img-src ${own} data: blob:`,
    `media-src ${own} data: blob:`,
    `font-src ${own} data:`,
    "connect-src 'none'",
    "form-action 'none'",
    "base-uri 'none'",
    "frame-ancestors 'self'",
    `report-uri /sandbox/${token}/report`
  ].join('; ')
}
