import { onScopeDispose, ref } from 'vue'
import { DetailedError, Upload, canStoreURLs } from 'tus-js-client'
import type { FileView } from '@tin-harbor/core/contract'
import { ApiError, api } from '@/api'
import { lookBefore } from './before-sending'
import { useCutOff } from './use-cut-off'

/** Waits before a broken connection is tried again, milliseconds. */
const AGAIN_MS = [0, 1000, 3000, 5000, 10_000]
/** How many are sent at once. */
const AT_ONCE = 2

export interface Sending {
  name: string
  bytes: number
  /** Share that has come, 0 to 1. */
  share: number
  state: 'waits' | 'is looked at' | 'sends' | 'is read' | 'done' | 'refused'
  /** What slots will say of it, from a look before it is sent. */
  foreseen: string
  /** Why it was refused, or that the library has it already. */
  said: string
  stop: () => void
}

/** What a server said that refused an upload, in its words where it has some. */
function wordsOf(error: Error): string {
  if (error instanceof ApiError) return error.of('file') ?? error.message
  const body = error instanceof DetailedError ? error.originalResponse?.getBody() : undefined
  try {
    const told = JSON.parse(body ?? '') as { title?: string; issues?: { message: string }[] }
    return told.issues?.[0]?.message ?? told.title ?? error.message
  } catch {
    return 'The connection was lost; choose the file again, and it goes on where it stopped.'
  }
}

/**
 * Sends files into an advertiser's library, two at a time; what broke off goes on where it stopped, also after the page was loaded anew
 * and the same file is chosen again.
 * @param onTaken when the library has another file
 */
export function useUploads(advertiser: () => number | null, onTaken: (file: FileView) => void) {
  const sendings = ref<Sending[]>([])
  const { cutOff, readCutOff, giveUp } = useCutOff(advertiser, ({ name, bytes }) =>
    sendings.value.some((one) => one.name === name && one.bytes === bytes && one.state !== 'done' && one.state !== 'refused')
  )
  const running = new Set<Upload>()

  function next(): void {
    if (running.size >= AT_ONCE) return
    const place = sendings.value.findIndex(({ state }) => state === 'waits')
    if (place >= 0) starts.get(place)?.()
  }
  const starts = new Map<number, () => void>()

  function send(file: File): void {
    const advertiserId = advertiser()
    if (advertiserId === null) return
    const place = sendings.value.length
    const told = () => sendings.value[place]
    const end = (state: 'done' | 'refused', said: string) => {
      Object.assign(told(), { state, said })
      running.delete(upload)
      next()
      void readCutOff()
    }
    const upload = new Upload(file, {
      endpoint: `/api/advertisers/${advertiserId}/uploads`,
      retryDelays: AGAIN_MS,
      removeFingerprintOnSuccess: true,
      // The same file for another advertiser is another upload.
      fingerprint: ({ name, size, lastModified }: File) => Promise.resolve(`tin-harbor-${advertiserId}-${name}-${size}-${lastModified}`),
      metadata: { filename: file.name, advertiser: String(advertiserId) },
      onProgress: (sent, total) => (told().share = total > 0 ? sent / total : 0),
      onError: (error) => end('refused', wordsOf(error)),
      onSuccess: () => {
        told().state = 'is read'
        api.finishUpload(Number(upload.url?.split('/').at(-1))).then(
          ({ file: taken, wasKnown }) => {
            end('done', wasKnown ? `The library has it already, as “${taken.name}”.` : '')
            onTaken(taken)
          },
          (error: Error) => end('refused', wordsOf(error))
        )
      }
    })
    sendings.value = [
      ...sendings.value,
      {
        name: file.name,
        bytes: file.size,
        share: 0,
        state: 'waits',
        foreseen: '',
        said: '',
        stop: () => void upload.abort(true).finally(() => end('refused', 'Stopped.'))
      }
    ]
    starts.set(place, () => {
      running.add(upload)
      told().state = 'is looked at'
      void (async () => {
        const { refused, foreseen } = await lookBefore(file)
        if (told().state === 'refused') return
        told().foreseen = foreseen
        if (refused !== '') return end('refused', refused)
        told().state = 'sends'
        const [before] = canStoreURLs ? await upload.findPreviousUploads() : []
        if (before) upload.resumeFromPreviousUpload(before)
        upload.start()
      })()
    })
    next()
  }

  onScopeDispose(() => {
    for (const upload of running) void upload.abort()
  })
  return {
    sendings,
    cutOff,
    readCutOff,
    giveUp,
    send: (files: readonly File[]) => files.forEach(send),
    clear: () => {
      if (running.size > 0) return
      starts.clear()
      sendings.value = []
    }
  }
}
