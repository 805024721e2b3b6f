import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http'
import type { AddressInfo } from 'node:net'
import { besideIt } from '../fetching/root-addresses.js'
import { hasStandIn, standIn } from './outside.js'

/** The demo's advertisers as sites that a browser can open. */
export interface StandInSites {
  /** Where the site of a link is opened; null for a host that none stands in for. */
  addressOf: (link: URL) => string | null
  close: () => Promise<void>
}

async function serve(request: IncomingMessage, response: ServerResponse): Promise<void> {
  const [, host = '', ...path] = (request.url ?? '').split('/')
  const answer = hasStandIn(host) ? await standIn(new URL(`https://${host}/${path.join('/')}`)) : null
  if (!answer) {
    response.writeHead(404, { 'content-type': 'text/plain; charset=utf-8' }).end('Not here.')
    return
  }
  const { status, type, body } = answer
  // What lies at the root of its site lies below its name here.
  const shown = type === 'text/html' ? Buffer.from(besideIt(body.toString('utf8'), `/${host}/`)) : body
  response.writeHead(status, { 'content-type': type === 'text/html' ? 'text/html; charset=utf-8' : type }).end(shown)
}

/** `GET /HOST/PATH`: what the site of a host answers. */
export async function startSites(): Promise<StandInSites> {
  const server: Server = createServer((request, response) => {
    serve(request, response).catch(() => response.writeHead(500).end())
  })
  await new Promise<void>((resolve, reject) => server.once('error', reject).listen(0, '127.0.0.1', resolve))
  const address = `http://127.0.0.1:${(server.address() as AddressInfo).port}`
  return {
    addressOf: ({ hostname, pathname, search, hash }) =>
      hasStandIn(hostname) ? `${address}/${hostname}${pathname}${search}${hash}` : null,
    close: () => new Promise((resolve) => server.close(() => resolve()))
  }
}
