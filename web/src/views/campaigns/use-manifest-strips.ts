import { computed, ref } from 'vue'
import type { ManifestLine } from '@tin-harbor/core/contract'
import { dayOfDate } from '@tin-harbor/core/time'
import { axisOf } from '@/composables/axis'
import { perCent } from '@/composables/formats'
import { useManifest } from '@/stores/manifest'
import { useMarket } from '@/stores/market'

/** Pixels of a strip. */
export const WIDTH = 198
/** Spend under this share of what was due is told as slow. */
const SLOW = 0.9
/** More lines than this stand closer, and only the campaign that is looked at is open. */
const CROWD = 30
/** Days that an open flight is drawn into the future. */
const OPEN_DAYS = 14

function wordOf(line: ManifestLine, isSlow: boolean): string {
  if (line.state === 'live') return isSlow ? 'slow' : line.possible === null ? '' : `gets ${perCent(line.possible)}`
  return line.template ? 'template' : line.waits ? 'waits' : line.state
}

function toldOf(line: ManifestLine): string {
  const spent = line.dueMicros ? `, spent ${perCent(line.spentMicros / line.dueMicros)} of what was due` : ''
  const possible = line.possible === null ? '' : `; gets ${perCent(line.possible)} of what its money could buy`
  return `${line.name}: ${line.state}${spent}${possible}`
}

/** Lines as strips on a common axis of days, under their campaigns and advertisers; those that are looked for. */
export function useManifestStrips() {
  const manifest = useManifest()
  const market = useMarket()
  const today = computed(() => market.run.hour / 24)
  const axis = computed(() => axisOf(manifest.lines, Math.floor(today.value)))

  function strip(line: ManifestLine) {
    const from = axis.value.at(dayOfDate(line.startDate)) * WIDTH
    const to = axis.value.at(line.endDate === null ? Math.floor(today.value) + OPEN_DAYS : dayOfDate(line.endDate) + 1) * WIDTH
    const partOf = (micros: number | null) => (line.plannedMicros && micros ? Math.min(1, micros / line.plannedMicros) * (to - from) : 0)
    const isSlow = line.state === 'live' && line.dueMicros !== null && line.dueMicros > 0 && line.spentMicros < SLOW * line.dueMicros
    return {
      line,
      from,
      width: Math.max(2, to - from),
      filled: partOf(line.spentMicros),
      due: partOf(line.dueMicros),
      isSlow,
      word: wordOf(line, isSlow),
      told: toldOf(line)
    }
  }

  /** Lines by name, code, tag or state; campaigns by name with all their lines. */
  const typed = ref('')
  const wanted = computed(() => typed.value.trim().toLowerCase())
  const isNamed = (line: ManifestLine) =>
    `${line.name} ${line.code} ${line.tags.join(' ')} ${line.template ? 'template' : line.state}`.toLowerCase().includes(wanted.value)
  const linesBy = computed(() => {
    const by = new Map<number, ManifestLine[]>()
    for (const line of manifest.lines) by.set(line.campaignId, [...(by.get(line.campaignId) ?? []), line])
    return by
  })
  const campaignsOf = (advertiserId: number) =>
    manifest.campaigns
      .filter((campaign) => campaign.advertiserId === advertiserId)
      .map((campaign) => {
        const all = linesBy.value.get(campaign.id) ?? []
        const isWhole = campaign.name.toLowerCase().includes(wanted.value)
        return { campaign, isWhole, strips: (isWhole ? all : all.filter(isNamed)).map(strip) }
      })
      .filter(({ isWhole, strips }) => isWhole || strips.length > 0)
  const groups = computed(() =>
    manifest.advertisers
      .map((advertiser) => ({ advertiser, campaigns: campaignsOf(advertiser.id) }))
      .filter(({ campaigns }) => wanted.value === '' || campaigns.length > 0)
  )

  const isCrowded = computed(() => manifest.lines.length > CROWD)
  return { typed, wanted, axis, isCrowded, nowAt: computed(() => axis.value.at(today.value) * WIDTH), groups }
}
