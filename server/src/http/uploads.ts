import busboy from 'busboy'
import type { Request } from 'express'
import { MOST_UPLOAD_BYTES } from '@tin-harbor/core/buying'
import { withoutControls } from '@tin-harbor/core/input'
import { invalidField, tooLarge, type AppError } from './errors.js'
import { drained } from './bodies.js'

export interface Upload {
  name: string
  data: Buffer
}

/** What a form has around its file, at most. */
const FORM_BYTES = 4096
const TOO_LARGE = `A file may have at most ${MOST_UPLOAD_BYTES / 1024 / 1024} MB here.`
const BROKE_OFF = 'The upload broke off; try again.'

/** The reader of a form; null where its head is none. */
function formReader(req: Request): busboy.Busboy | null {
  try {
    return busboy({ headers: req.headers, defParamCharset: 'utf8', limits: { files: 1, fields: 4, fileSize: MOST_UPLOAD_BYTES } })
  } catch {
    return null
  }
}

/**
 * Reads the one file of a multipart request, up to the limit. What comes after the limit is read and thrown away.
 * @throws a field error for what is no form, is cut off or has no file; too large
 */
export async function readUpload(req: Request): Promise<Upload> {
  const parts = /^multipart\/form-data/i.test(req.headers['content-type'] ?? '') ? formReader(req) : null
  const refusal =
    parts === null
      ? invalidField('file', 'Send the file as a form.')
      : Number(req.headers['content-length'] ?? 0) > MOST_UPLOAD_BYTES + FORM_BYTES
        ? tooLarge(TOO_LARGE)
        : null
  if (parts === null || refusal) {
    await drained(req)
    throw refusal
  }
  try {
    return await fileOf(req, parts)
  } catch (error) {
    req.unpipe(parts)
    await drained(req)
    throw error
  }
}

function fileOf(req: Request, parts: busboy.Busboy): Promise<Upload> {
  return new Promise((resolve, reject) => {
    const chunks: Buffer[] = []
    let name: string | null = null
    const fail = (error: AppError) => reject(error)
    parts.on('file', (_field, stream, info) => {
      name = info.filename ?? 'picture'
      stream.on('limit', () => fail(tooLarge(TOO_LARGE)))
      stream.on('data', (chunk: Buffer) => chunks.push(chunk))
      // A form without its end breaks the file's stream as well as the form's.
      stream.on('error', () => fail(invalidField('file', BROKE_OFF)))
    })
    parts.on('error', () => fail(invalidField('file', BROKE_OFF)))
    parts.on('close', () => {
      if (name === null || chunks.length === 0) fail(invalidField('file', 'Choose a file first.'))
      else resolve({ name: withoutControls(name), data: Buffer.concat(chunks) })
    })
    req.once('aborted', () => fail(invalidField('file', BROKE_OFF)))
    req.pipe(parts)
  })
}
