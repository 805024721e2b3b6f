import { onScopeDispose } from 'vue'
import type { PageEvent } from '@tin-harbor/core/contract'

const NAME = 'tin-harbor-events'

/**
 * Events of the server for all windows of a browser over one stream: six windows with a stream each would block every
 * further request. The holder of a Web Lock opens the stream and passes events on; when it closes, the next takes over.
 */
export function useEvents(onEvent: (event: PageEvent) => void): void {
  const channel = new BroadcastChannel(NAME)
  const end = new AbortController()
  channel.onmessage = ({ data }: MessageEvent<PageEvent>) => onEvent(data)

  function openStream(): EventSource {
    const stream = new EventSource('/api/events')
    stream.onmessage = ({ data }: MessageEvent<string>) => {
      const event = JSON.parse(data) as PageEvent
      onEvent(event)
      channel.postMessage(event)
    }
    return stream
  }

  async function hold(): Promise<void> {
    const stream = openStream()
    await new Promise<void>((resolve) => end.signal.addEventListener('abort', () => resolve()))
    stream.close()
  }

  // Locks exist on https and on loopback only; elsewhere each window has a stream of its own.
  const { locks } = navigator as Navigator & { locks?: LockManager }
  if (locks) void locks.request(NAME, { signal: end.signal }, hold).catch(() => undefined)
  else void hold()

  onScopeDispose(() => {
    end.abort()
    channel.close()
  })
}
