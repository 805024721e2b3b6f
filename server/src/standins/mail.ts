import { createServer, type Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import PostalMime from 'postal-mime'
import { SMTPServer } from 'smtp-server'

/** Letters that are kept; older ones go. */
const MOST_LETTERS = 200
const MOST_BYTES = 256 * 1024

interface Letter {
  to: string
  subject: string
  text: string
  at: Date
}

export interface MailService {
  /** Where letters are given: `smtp://host:port`. */
  smtp: string
  /** Where they are read. */
  outbox: string
  letters: () => readonly Letter[]
  close: () => Promise<void>
}

/** The stand-in for a mail service: SMTP on loopback, and a page on which all letters can be read. Nothing leaves this machine. */
export async function startMail(): Promise<MailService> {
  const letters: Letter[] = []
  const smtp = new SMTPServer({
    authOptional: true,
    disabledCommands: ['AUTH', 'STARTTLS'],
    size: MOST_BYTES,
    logger: false,
    onData: (stream, _session, done) => {
      const parts: Buffer[] = []
      stream.on('data', (part: Buffer) => parts.push(part))
      stream.on('end', () => {
        PostalMime.parse(Buffer.concat(parts)).then(({ to, subject = '', text = '' }) => {
          letters.unshift({ to: (to ?? []).map(({ address }) => address ?? '').join(', '), subject, text, at: new Date() })
          letters.length = Math.min(letters.length, MOST_LETTERS)
          done()
        }, done)
      })
    }
  })
  smtp.on('error', () => undefined)
  const listening = await new Promise<AddressInfo>((resolve, reject) => {
    smtp.server.once('error', reject)
    const server = smtp.listen(0, '127.0.0.1', () => resolve(server.address() as AddressInfo))
  })
  const page: Server = createServer((_request, response) => {
    response.writeHead(200, {
      'content-type': 'text/html; charset=utf-8',
      'cache-control': 'no-store',
      'content-security-policy': "default-src 'none'; style-src 'unsafe-inline'"
    })
    response.end(pageOf(letters))
  })
  await new Promise<void>((resolve, reject) => page.once('error', reject).listen(0, '127.0.0.1', resolve))
  return {
    smtp: `smtp://127.0.0.1:${listening.port}`,
    outbox: `http://127.0.0.1:${(page.address() as AddressInfo).port}/`,
    letters: () => letters,
    close: async () => {
      await new Promise<void>((resolve) => smtp.close(() => resolve()))
      await new Promise<void>((resolve) => {
        page.closeAllConnections()
        page.close(() => resolve())
      })
    }
  }
}

const escaped = (text: string) => text.replace(/[&<>"']/g, (letter) => `&#${letter.charCodeAt(0)};`)
/** Text with its addresses as links. */
const linked = (text: string) => escaped(text).replace(/https?:\/\/[^\s<&]+/g, (link) => `<a href="${link}">${link}</a>`)

const pageOf = (letters: readonly Letter[]) => `<!doctype html><html lang="en"><meta charset="utf-8"><title>Letters that were sent</title>
<style>body{max-width:720px;margin:24px auto;padding:0 16px;font:15px/1.5 serif;color:#14313a;background:#fbfaf5}
article{padding:10px 0;border-top:1px solid #b9c1bf}h1{font-size:20px}h2{margin:0;font-size:16px}p{margin:4px 0;white-space:pre-wrap;overflow-wrap:anywhere}
small{color:#4a5d63}</style>
<h1>Letters that were sent</h1><p>The mail service is a stand-in: nothing leaves this machine. The last ones stand first.</p>
${letters
  .map(
    ({ to, subject, text, at: when }) =>
      `<article><h2>${escaped(subject)}</h2><small>to ${escaped(to)}, ${when.toISOString().slice(0, 16).replace('T', ' ')} UTC</small><p>${linked(text)}</p></article>`
  )
  .join('\n')}
${letters.length === 0 ? '<p>None yet.</p>' : ''}</html>`
