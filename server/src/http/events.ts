import type { Response } from 'express'
import type { PageEvent } from '@tin-harbor/core/contract'
import type { Actor } from '../security/sessions.js'

/** How often an open stream shows that it is there, and whether whoever opened it still may. */
const BEAT_MS = 15_000

/** Makes the event that one user is told; events of nobody in particular are the same for all. */
export type EventFor = (actor: Actor) => PageEvent

interface Stream {
  res: Response
  actor: Actor
  session: string
}

/** Open streams of pages; a closed one is forgotten. */
export class EventHub {
  private readonly streams = new Set<Stream>()
  private readonly last = new Map<PageEvent['kind'], EventFor>()

  /**
   * @param session names the session that opened it: the stream ends with it
   * @param again who the session is of by now; null when it is over
   */
  open(res: Response, actor: Actor, session: string, again: () => Promise<Actor | null>): void {
    res.writeHead(200, { 'content-type': 'text/event-stream', 'cache-control': 'no-store', connection: 'keep-alive' })
    res.write('retry: 1000\n\n')
    const stream: Stream = { res, actor, session }
    for (const event of this.last.values()) say(stream, event)
    this.streams.add(stream)
    const beat = setInterval(() => {
      res.write(': still here\n\n')
      // A database that is away says nothing about who may listen.
      again().then(
        (who) => (who ? (stream.actor = who) : res.end()),
        () => undefined
      )
    }, BEAT_MS)
    res.on('close', () => {
      clearInterval(beat)
      this.streams.delete(stream)
    })
  }

  /** Whether any page listens. */
  get isHeard(): boolean {
    return this.streams.size > 0
  }

  send(kind: PageEvent['kind'], event: EventFor): void {
    this.last.set(kind, event)
    for (const stream of this.streams) say(stream, event)
  }

  /** Ends the streams of a session. */
  endSession(session: string): void {
    for (const stream of this.streams) if (stream.session === session) stream.res.end()
  }

  close(): void {
    for (const { res } of this.streams) res.end()
  }
}

const say = ({ res, actor }: Stream, event: EventFor) => res.write(`data: ${JSON.stringify(event(actor))}\n\n`)
