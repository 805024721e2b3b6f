import { VASTClient } from '@dailymotion/vast-client'
import { DOMParser } from '@xmldom/xmldom'
import type { VastRead } from '@tin-harbor/core/contract'
import { NotFetched, fetchPublic } from '../fetching/public-fetch.js'
import { invalidField } from '../http/errors.js'

const MOST_BYTES = 512 * 1024
/** Wrappers round a tag. */
const MOST_WRAPPERS = 5
const MOST_LISTED = 100
const TAG_TYPES = /^(application|text)\/(xml|vast\+xml|plain)$|^$/

/** What the parser tells of an ad, as far as it is looked at. */
interface ParsedAd {
  title: string | null
  system: { value: string } | null
  errorURLTemplates: string[]
  impressionURLTemplates: { url: string }[]
  creatives: {
    type: string
    duration?: number
    skipDelay?: number | null
    mediaFiles?: { fileURL: string; mimeType: string | null; width: number; height: number; bitrate: number; deliveryType: string }[]
    trackingEvents?: Record<string, string[]>
    videoClickThroughURLTemplate?: { url: string } | null
  }[]
}

/** What is looked at of a document before it is handed on. */
interface XmlDocument {
  documentElement: { nodeName: string } | null
}

/** A document of a tag. @throws what is wrong with it, in a sentence */
function parsed(xml: string): XmlDocument {
  if (/<!(DOCTYPE|ENTITY)/i.test(xml)) throw new NotFetched('The tag defines entities, which VAST has no use for: it is not read.')
  const problems: string[] = []
  const parser = new DOMParser({ onError: (level, message) => void (level === 'warning' || problems.push(message)) })
  let document: XmlDocument | null = null
  try {
    document = parser.parseFromString(xml, 'text/xml')
  } catch {
    // What it could not read at all it throws; what it could it noted.
  }
  if (!document?.documentElement || problems.length > 0) throw new NotFetched('It is no XML.')
  if (document.documentElement.nodeName !== 'VAST')
    throw new NotFetched(`It is no VAST but <${document.documentElement.nodeName.slice(0, 40)}>.`)
  return document
}

/** Reads a tag, or the address of one: through its wrappers to what is played. */
export async function readVast(source: { address: string } | { xml: string }): Promise<VastRead> {
  const chain: string[] = []
  const follow = async (address: string): Promise<XmlDocument> => {
    if (chain.includes(address)) throw new NotFetched(`Its wrappers lead in a circle, back to ${new URL(address).host}.`)
    // The tag itself is no wrapper.
    if (chain.length > MOST_WRAPPERS) throw new NotFetched(`It is wrapped more than ${MOST_WRAPPERS} times.`)
    chain.push(address)
    const { body } = await fetchPublic(address, { types: TAG_TYPES, mostBytes: MOST_BYTES, seconds: 6 })
    return parsed(body.toString('utf8'))
  }
  // The parser goes on quietly where a wrapper fails: what stopped it is kept.
  let stopped: Error | null = null
  const urlHandler = {
    get: async (address: string) => {
      try {
        return { xml: await follow(address), details: { statusCode: 200 } }
      } catch (error) {
        stopped ??= error as Error
        return { error, statusCode: null }
      }
    }
  }
  const options = { urlHandler, resolveAll: true, wrapperLimit: MOST_WRAPPERS + 2 }
  try {
    const client = new VASTClient()
    const answer = (await ('xml' in source ? client.parseVAST(parsed(source.xml), options) : client.get(source.address, options))) as {
      ads: ParsedAd[]
      version: string | null
    }
    if (stopped) throw stopped as Error
    return toldOf(answer.ads, answer.version, chain)
  } catch (error) {
    throw invalidField('tag', wordsOf((stopped as Error | null) ?? (error as Error)))
  }
}

const wordsOf = (error: Error) => (error instanceof NotFetched ? error.message : 'It is no VAST that can be read.')

function toldOf(ads: readonly ParsedAd[], version: string | null, chain: readonly string[]): VastRead {
  return {
    version: version ?? '',
    chain: [...chain],
    ads: ads.slice(0, MOST_LISTED).map(({ title, system, errorURLTemplates, impressionURLTemplates, creatives }) => ({
      title: title ?? '',
      system: system?.value ?? '',
      impressions: impressionURLTemplates.map(({ url }) => url).slice(0, MOST_LISTED),
      errors: errorURLTemplates.slice(0, MOST_LISTED),
      seconds: creatives.find(({ duration }) => (duration ?? 0) > 0)?.duration ?? null,
      skipAfter: creatives.find(({ skipDelay }) => skipDelay != null)?.skipDelay ?? null,
      landing: creatives.find((one) => one.videoClickThroughURLTemplate)?.videoClickThroughURLTemplate?.url ?? '',
      media: creatives
        .flatMap(({ mediaFiles = [] }) => mediaFiles)
        .slice(0, MOST_LISTED)
        .map(({ fileURL, mimeType, width, height, bitrate, deliveryType }) => ({
          address: fileURL,
          type: mimeType ?? '',
          width,
          height,
          kbps: bitrate,
          isPlayed: deliveryType === 'progressive' && PLAYED.test(mimeType ?? '')
        })),
      events: creatives.flatMap(({ trackingEvents = {} }) =>
        Object.entries(trackingEvents).flatMap(([event, addresses]) => addresses.map((address) => ({ event, address })))
      )
    }))
  }
}
/** Media that browsers and the library take. */
const PLAYED = /^(video\/(mp4|webm)|audio\/(mpeg|mp4|ogg|webm))$/
