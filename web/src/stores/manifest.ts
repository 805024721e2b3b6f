import { computed, shallowRef } from 'vue'
import { defineStore } from 'pinia'
import type { AdvertiserView, CampaignView, ManifestLine } from '@tin-harbor/core/contract'
import { namesApart } from '@tin-harbor/core/buying'
import { api } from '@/api'

/** Advertisers, campaigns and lines this user sees. */
export const useManifest = defineStore('manifest', () => {
  const advertisers = shallowRef<AdvertiserView[]>([])
  const campaigns = shallowRef<CampaignView[]>([])
  const lines = shallowRef<ManifestLine[]>([])
  const isLoaded = shallowRef(false)
  const error = shallowRef<string | null>(null)
  let possibleSince = 0
  let reading: Promise<void> | null = null
  let next: Promise<void> | null = null

  /** Reads it; while one reading is under way all who ask share the one after it, which sees what they changed. */
  function load(): Promise<void> {
    if (reading) return (next ??= reading.then(() => ((next = null), load())))
    return (reading = read().finally(() => (reading = null)))
  }

  /** Lines' shares of the possible are known anew: read once more where what was read, or is being read, is from before. */
  async function onPossible(since: number): Promise<void> {
    await reading
    if (since > possibleSince) await load()
  }

  async function read(): Promise<void> {
    try {
      const all = await api.manifest()
      advertisers.value = all.advertisers
      campaigns.value = all.campaigns
      lines.value = all.lines
      possibleSince = all.possibleSince
      error.value = null
      isLoaded.value = true
    } catch (failure) {
      error.value = (failure as Error).message
    }
  }

  const campaignOf = (id: number) => campaigns.value.find((campaign) => campaign.id === id)
  const advertiserOf = (id: number) => advertisers.value.find((advertiser) => advertiser.id === id)
  /** Names of lines, told apart where several have the same. */
  const lineNames = computed(() => namesApart(lines.value))
  const lineName = (id: number) => lineNames.value.get(id) ?? ''
  const isEmpty = computed(() => isLoaded.value && campaigns.value.length === 0)
  return { advertisers, campaigns, lines, isLoaded, isEmpty, error, load, onPossible, campaignOf, advertiserOf, lineName }
})
