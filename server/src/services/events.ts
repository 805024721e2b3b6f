import type { Response } from 'express'
import type { PageEvent } from '@tin-harbor/core/buying'

/** Open streams of pages; a closed one is forgotten. */
export class EventHub {
  private readonly streams = new Set<Response>()
  private readonly last = new Map<PageEvent['kind'], string>()

  open(res: Response): void {
    res.writeHead(200, { 'content-type': 'text/event-stream', 'cache-control': 'no-store', connection: 'keep-alive' })
    res.write('retry: 1000\n\n')
    for (const data of this.last.values()) res.write(data)
    this.streams.add(res)
    const beat = setInterval(() => res.write(': still here\n\n'), 15_000)
    res.on('close', () => {
      clearInterval(beat)
      this.streams.delete(res)
    })
  }

  send(event: PageEvent): void {
    const data = `data: ${JSON.stringify(event)}\n\n`
    this.last.set(event.kind, data)
    for (const stream of this.streams) stream.write(data)
  }

  close(): void {
    for (const stream of this.streams) stream.end()
  }
}
