import { computed, shallowRef } from 'vue'
import { Upload, canStoreURLs, defaultOptions, type PreviousUpload } from 'tus-js-client'

/** The server gives up as late what nobody went on with. */
const KEPT_MS = 2 * 24 * 3_600_000

/** An upload that the browser remembers. */
export interface CutOff {
  key: string
  name: string
  bytes: number
  url: string | null
}

/**
 * Uploads into an advertiser's library that were not finished and are not under way: the browser does not have their files any more.
 * @param isUnderWay whether one of them is being sent by this page
 */
export function useCutOff(advertiser: () => number | null, isUnderWay: (one: CutOff) => boolean) {
  const kept = shallowRef<CutOff[]>([])
  const isOld = ({ creationTime }: PreviousUpload) => Date.now() - Date.parse(creationTime) > KEPT_MS

  async function readCutOff(): Promise<void> {
    // A private window keeps nothing between two pages.
    if (!canStoreURLs) return
    const { urlStorage } = defaultOptions
    const known = (await urlStorage.findAllUploads()).filter(({ metadata }) => metadata.advertiser === String(advertiser()))
    for (const { urlStorageKey } of known.filter(isOld)) await urlStorage.removeUpload(urlStorageKey)
    kept.value = known
      .filter((one) => !isOld(one))
      .map(({ urlStorageKey: key, metadata, size, uploadUrl: url }) => ({ key, name: metadata.filename, bytes: size ?? 0, url }))
  }

  /** What has come of it is thrown away. */
  async function giveUp({ key, url }: CutOff): Promise<void> {
    // Gone already is as good.
    if (url !== null) await Upload.terminate(url, { retryDelays: null }).catch(() => undefined)
    await defaultOptions.urlStorage.removeUpload(key)
    await readCutOff()
  }

  return { cutOff: computed(() => kept.value.filter((one) => !isUnderWay(one))), readCutOff, giveUp }
}
