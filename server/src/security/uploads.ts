import busboy from 'busboy'
import type { Request } from 'express'
import { MOST_UPLOAD_BYTES } from '@tin-harbor/core/buying'
import { AppError, invalidField, tooLarge } from '../errors.js'

export interface Upload {
  name: string
  data: Buffer
}

const TOO_LARGE = `A file may have at most ${MOST_UPLOAD_BYTES / 1024 / 1024} MB here.`

/** Longest that a body too large is read to its end, so that its sender gets to see why it was refused. */
const DRAIN_MS = 60_000

/** Reads a body and throws it away: an answer sent before its end would be lost with the connection. */
function drained(req: Request): Promise<void> {
  return new Promise((resolve) => {
    const enough = setTimeout(() => req.destroy(), DRAIN_MS)
    req.once('close', () => {
      clearTimeout(enough)
      resolve()
    })
    req.once('end', resolve)
    req.resume()
  })
}

/**
 * Reads the one file of a multipart request, up to the limit. What comes after the limit is read and thrown away.
 */
export async function readUpload(req: Request): Promise<Upload> {
  if (!/^multipart\/form-data/i.test(req.headers['content-type'] ?? '')) {
    await drained(req)
    throw invalidField('file', 'Send the file as a form.')
  }
  if (Number(req.headers['content-length'] ?? 0) > MOST_UPLOAD_BYTES + 4096) {
    await drained(req)
    throw tooLarge(TOO_LARGE)
  }
  return new Promise((resolve, reject) => {
    const parts = busboy({ headers: req.headers, defParamCharset: 'utf8', limits: { files: 1, fields: 4, fileSize: MOST_UPLOAD_BYTES } })
    const chunks: Buffer[] = []
    let name: string | null = null
    let cut = false
    const fail = (error: AppError) => {
      req.unpipe(parts)
      void (req.readableEnded ? Promise.resolve() : drained(req)).then(() => reject(error))
    }
    parts.on('file', (_field, stream, info) => {
      name = info.filename ?? 'picture'
      stream.on('limit', () => {
        cut = true
        fail(tooLarge(TOO_LARGE))
      })
      stream.on('data', (chunk: Buffer) => {
        if (!cut) chunks.push(chunk)
      })
    })
    parts.on('error', () => fail(invalidField('file', 'The upload broke off; try again.')))
    parts.on('close', () => {
      if (cut) return
      if (name === null || chunks.length === 0) fail(invalidField('file', 'Choose a file first.'))
      else resolve({ name, data: Buffer.concat(chunks) })
    })
    req.on('aborted', () => reject(new AppError(400, 'aborted', 'The upload was broken off.')))
    req.pipe(parts)
  })
}
