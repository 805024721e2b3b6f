import type { Response } from 'express'
import type { ContentStore } from './content-store.js'
import type { StoredFile } from './file-model.js'

/** Types that a browser shows, plays, and never runs. */
const SHOWN = /^(image\/(png|jpeg|gif|webp)|video\/(mp4|webm|x-matroska|quicktime)|audio\/[a-z0-9.+-]+)$/

/** Answers with what a file holds, or with what stands in for it where browsers do not play it; in parts, where they are asked for. */
export async function sendContent(
  res: Response,
  store: ContentStore,
  { facts, sha256, proxy }: Pick<StoredFile, 'facts' | 'sha256' | 'proxy'>,
  isPlayable: boolean
): Promise<void> {
  const standsIn = isPlayable ? proxy : null
  res.set({
    // What no browser shows is only kept: it never runs as something of ours.
    'content-type': standsIn ? 'video/mp4' : SHOWN.test(facts.type) ? facts.type : 'application/octet-stream',
    'cache-control': 'private, max-age=86400',
    'content-security-policy': "default-src 'none'; sandbox",
    'x-content-type-options': 'nosniff'
  })
  await new Promise<void>((resolve, reject) =>
    res.sendFile(store.pathOf(standsIn ?? sha256), { cacheControl: false, dotfiles: 'allow' }, (error?: NodeJS.ErrnoException) =>
      // Whoever plays a film asks for parts of it, and leaves when they have seen enough, or before they saw any.
      error && error.code !== 'ECONNABORTED' && !res.headersSent ? reject(error) : resolve()
    )
  )
}
