import type { IncomingMessage } from 'node:http'

/** The JSON body of a request to a stand-in. */
export async function bodyOf(request: IncomingMessage): Promise<unknown> {
  const parts: Buffer[] = []
  for await (const part of request as AsyncIterable<Buffer>) parts.push(part)
  return JSON.parse(Buffer.concat(parts).toString('utf8'))
}
